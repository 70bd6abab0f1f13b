import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { leftInRun } from '@/server/queries/ledger/left-in-run';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/runs/{run}/left', {
  GET: async ({ params }) => ({ body: await leftInRun(await workspaceOf(params), params.run) }),
});

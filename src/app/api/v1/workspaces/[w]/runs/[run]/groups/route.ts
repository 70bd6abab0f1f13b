import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { runGroups } from '@/server/queries/ledger/run-groups';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/runs/{run}/groups', {
  GET: async ({ params }) => ({ body: await runGroups(await workspaceOf(params), params.run) }),
});

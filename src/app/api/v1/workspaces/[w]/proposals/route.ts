import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { listProposals } from '@/server/queries/today/proposals';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/proposals', {
  /** What waits for people; `?decided=true` what was decided. */
  GET: async ({ params, query }) => ({
    body: await listProposals(await workspaceOf(params), query.get('decided') === 'true'),
  }),
});

import { endpoint, workspaceOf, workspaceSeen } from '@/app/api/endpoint';
import { listProposals } from '@/server/queries/today/proposals';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/proposals', {
  /** What waits for people; `?decided=true` what was decided. */
  GET: async (asked) => {
    const isDecided = asked.query.get('decided') === 'true';
    return {
      body: await listProposals(await workspaceOf(asked.params), isDecided, await workspaceSeen(asked)),
    };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { askApproval, listApprovals } from '@/server/actions/approvals/approvals';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/approvals', {
  /** What waits for somebody to approve it, and what was decided last. */
  GET: async ({ params }) => ({ body: { approvals: await listApprovals(params.w) } }),
  /** Asks that somebody else approves what a route would do with a body, exactly so. */
  POST: async ({ params, person, json }) => ({
    status: 201,
    body: await askApproval({ workspace: params.w, person }, readInput('newApproval', await json())),
  }),
});

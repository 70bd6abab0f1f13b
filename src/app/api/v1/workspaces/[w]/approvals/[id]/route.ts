import { endpoint } from '@/app/api/endpoint';
import { decideApproval } from '@/server/actions/approvals/approvals';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/approvals/{id}', {
  /** Approves it, which does it; refuses it, saying why; or takes one's own back. */
  POST: async ({ params, person, json }) => {
    const decision = readInput('approvalDecision', await json());
    return { body: await decideApproval({ workspace: params.w, person }, params.id, decision) };
  },
});

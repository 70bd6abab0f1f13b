import { endpoint } from '@/app/api/endpoint';
import { proofsOf } from '@/server/queries/rules/proofs';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rules/{id}/proofs', {
  /** The rule's proofs, each run through the live rules and the rule's latest version. */
  GET: async ({ params }) => ({
    body: { proofs: await proofsOf(params.w, params.id) },
  }),
});

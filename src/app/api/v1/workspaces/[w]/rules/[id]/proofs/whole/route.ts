import { endpoint } from '@/app/api/endpoint';
import { wholeProofs } from '@/server/queries/rules/proofs';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rules/{id}/proofs/whole', {
  /** The rule's proofs with all that they run on. */
  GET: async ({ params }) => ({ body: { proofs: await wholeProofs(params.w, params.id) } }),
});

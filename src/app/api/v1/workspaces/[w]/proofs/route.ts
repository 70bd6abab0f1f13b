import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { keepProof } from '@/server/actions/rules/proofs';
import { proofStandings } from '@/server/queries/rules/proof-standings';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/proofs', {
  /** How the proofs of all rules stand. */
  GET: async ({ params }) => ({
    body: { rules: await proofStandings(params.w) },
  }),
  /** Keeps a rehearsal with what must come of it. */
  POST: async ({ params, person, json }) => {
    const input = readInput('newProof', await json());
    return { status: 201, body: await keepProof({ workspace: params.w, person }, input) };
  },
});

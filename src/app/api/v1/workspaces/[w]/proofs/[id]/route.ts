import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { changeProof, removeProof } from '@/server/actions/rules/proofs';
import { getProof } from '@/server/queries/rules/proofs';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/proofs/{id}', {
  GET: async ({ params }) => ({ body: await getProof(params.w, params.id) }),
  PATCH: async ({ params, person, json }) => {
    const patch = readInput('proofPatch', await json());
    const by = { workspace: params.w, person };
    return { body: await changeProof(by, params.id, patch) };
  },
  DELETE: async ({ params, person }) => {
    await removeProof({ workspace: params.w, person }, params.id);
    return { status: 204 };
  },
});

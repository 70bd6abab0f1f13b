import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { changeProof, removeProof } from '@/server/actions/proofs';
import { getProof } from '@/server/queries/proofs';

type Params = { w: string; id: string };

export const GET = route<Params>(async ({ params }) => ({ body: await getProof(params.w, params.id) }));

export const PATCH = route<Params>(async ({ request, params }) => {
  const patch = readInput('proofPatch', await jsonBody(request));
  const by = { workspace: params.w, person: personOf(request) };
  return { body: await changeProof(by, params.id, patch) };
});

export const DELETE = route<Params>(async ({ request, params }) => {
  await removeProof({ workspace: params.w, person: personOf(request) }, params.id);
  return { status: 204 };
});

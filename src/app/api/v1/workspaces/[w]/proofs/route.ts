import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { keepProof } from '@/server/actions/proofs';
import { MOST_BUNDLE } from '@/server/actions/read-bundle';
import { proofStandings } from '@/server/queries/proof-standings';

/** How the proofs of all rules stand. */
export const GET = route<{ w: string }>(async ({ params }) => ({
  body: { rules: await proofStandings(params.w) },
}));

/** Keeps a rehearsal with what must come of it. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const input = readInput('newProof', await jsonBody(request, MOST_BUNDLE));
  return { status: 201, body: await keepProof({ workspace: params.w, person: personOf(request) }, input) };
});

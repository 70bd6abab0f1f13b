import { route } from '@/app/api/answer';
import { proofsOf } from '@/server/queries/proofs';

/** The rule's proofs, each run through the live rules and the rule's latest version. */
export const GET = route<{ w: string; id: string }>(async ({ params }) => ({
  body: { proofs: await proofsOf(params.w, params.id) },
}));

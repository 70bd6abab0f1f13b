import { jsonBody, personOf, route } from '@/app/api/answer';
import { decideProposals } from '@/server/actions/decide-proposals';
import { readInput } from '@/server/actions/input';

/** Decides proposals, each in a run of its own; what can't be done stays open and says why. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const { decisions } = readInput('decisions', await jsonBody(request));
  return {
    body: {
      decided: await decideProposals({ workspace: params.w, person: personOf(request), decisions }),
    },
  };
});

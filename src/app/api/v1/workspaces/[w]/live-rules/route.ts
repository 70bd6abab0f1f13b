import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { takeLiveTogether } from '@/server/actions/write-rules';

/** Takes several rules live in one run. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const { rules, reason } = readInput('rulesLive', await jsonBody(request));
  return {
    body: await takeLiveTogether({ workspace: params.w, person: personOf(request), ids: rules, reason }),
  };
});

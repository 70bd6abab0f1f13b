import { jsonBody, personOf, route } from '@/app/api/answer';
import { mergeBundle } from '@/server/actions/merge-bundle';
import { MOST_BUNDLE } from '@/server/actions/read-bundle';
import { readInput } from '@/server/actions/input';

/** Takes differences over, all that were chosen or nothing. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const input = readInput('mergeApply', await jsonBody(request, MOST_BUNDLE * 2));
  return { body: await mergeBundle({ workspace: params.w, person: personOf(request) }, input) };
});

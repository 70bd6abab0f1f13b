import { jsonBody, personOf, route } from '@/app/api/answer';
import { mergeBundle, MOST_BUNDLE } from '@/server/actions/bundles';
import { readInput } from '@/server/actions/input';

/** Takes differences over, all that were chosen or nothing. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const input = readInput('mergeApply', await jsonBody(request, MOST_BUNDLE * 2));
  return { body: await mergeBundle({ workspace: params.w, person: personOf(request) }, input) };
});

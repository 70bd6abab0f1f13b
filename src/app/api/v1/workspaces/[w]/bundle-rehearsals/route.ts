import { jsonBody, route } from '@/app/api/answer';
import { MOST_BUNDLE, rehearseMerge } from '@/server/actions/bundles';
import { readInput } from '@/server/actions/input';

/** What taking differences over would do. */
export const POST = route<{ w: string }>(async ({ request, params }) => ({
  body: await rehearseMerge(params.w, readInput('merge', await jsonBody(request, MOST_BUNDLE * 2))),
}));

import { jsonBody, route } from '@/app/api/answer';
import { rehearseMerge } from '@/server/actions/merge-bundle';
import { MOST_BUNDLE } from '@/server/actions/read-bundle';
import { readInput } from '@/server/actions/input';

/** What taking differences over would do. */
export const POST = route<{ w: string }>(async ({ request, params }) => ({
  body: await rehearseMerge(params.w, readInput('merge', await jsonBody(request, MOST_BUNDLE * 2))),
}));

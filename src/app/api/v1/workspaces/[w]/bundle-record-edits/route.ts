import { jsonBody, route } from '@/app/api/answer';
import { recordEdits } from '@/server/actions/bundle-records';
import { MOST_BUNDLE } from '@/server/actions/read-bundle';
import { readInput } from '@/server/actions/input';

/** The edits that take chosen differences of a bundle's records over: rehearse and save them as any others. */
export const POST = route<{ w: string }>(async ({ request, params }) => ({
  body: { edits: await recordEdits(params.w, readInput('merge', await jsonBody(request, MOST_BUNDLE * 2))) },
}));

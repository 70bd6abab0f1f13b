import { jsonText, route } from '@/app/api/answer';
import { compareBundle } from '@/server/actions/merge-bundle';
import { MOST_BUNDLE } from '@/server/actions/read-bundle';

/** What the workspace and the bundle in the body don't have alike. */
export const POST = route<{ w: string }>(async ({ request, params }) => ({
  body: await compareBundle(params.w, await jsonText(request, MOST_BUNDLE)),
}));

import { askerOf, jsonBody, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { previewLive } from '@/server/actions/preview-live';

/** What taking the rule's latest version live would change. Saves nothing. */
export const GET = route<{ w: string; id: string }>(async ({ request, params }) => ({
  body: await previewLive(params.w, params.id, { person: askerOf(request) }),
}));

/** The same for some records, as a pilot. */
export const POST = route<{ w: string; id: string }>(async ({ request, params }) => {
  const { pilot = null } = readInput('livePreview', await jsonBody(request));
  return { body: await previewLive(params.w, params.id, { pilot, person: askerOf(request) }) };
});

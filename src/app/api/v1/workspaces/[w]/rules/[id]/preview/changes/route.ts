import { askerOf, jsonBody, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { previewFile } from '@/server/actions/preview-live';

/** All that taking the rule live would change, as CSV. Saves nothing. */
export const POST = route<{ w: string; id: string }>(async ({ request, params }) => {
  const { pilot = null } = readInput('livePreview', await jsonBody(request));
  return {
    body: new Response(await previewFile(params.w, params.id, { pilot, person: askerOf(request) }), {
      headers: {
        'Content-Type': 'text/csv; charset=utf-8',
        'Content-Disposition': 'attachment; filename="changes.csv"',
        'Cache-Control': 'no-store',
      },
    }),
  };
});

import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { previewFile } from '@/server/actions/rules/preview-live';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/rules/{id}/preview/changes',
  {
    /** All that taking the rule live would change, as CSV. Saves nothing. */
    POST: async ({ params, person, json }) => {
      const { pilot = null } = readInput('livePreview', await json());
      return {
        body: new Response(await previewFile(params.w, params.id, { pilot, person: person || null }), {
          headers: {
            'Content-Type': 'text/csv; charset=utf-8',
            'Content-Disposition': 'attachment; filename="changes.csv"',
            'Cache-Control': 'no-store',
          },
        }),
      };
    },
  },
);

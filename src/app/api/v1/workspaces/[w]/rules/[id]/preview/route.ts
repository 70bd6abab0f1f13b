import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { previewLive } from '@/server/actions/rules/preview-live';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rules/{id}/preview', {
  /** What taking the rule's latest version live would change. Saves nothing. */
  GET: async ({ params, person }) => ({
    body: await previewLive(params.w, params.id, { person: person || null }),
  }),
  /** The same for some records, as a pilot. */
  POST: async ({ params, person, json }) => {
    const { pilot = null } = readInput('livePreview', await json());
    return { body: await previewLive(params.w, params.id, { pilot, person: person || null }) };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { previewTogether } from '@/server/actions/rules/preview-live';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/live-rules/preview', {
  /** What taking several rules live in one run would change. Saves nothing. */
  POST: async ({ params, person, json }) => {
    const { rules } = readInput('rulesMarked', await json());
    return { body: await previewTogether(params.w, rules, { person: person || null }) };
  },
});

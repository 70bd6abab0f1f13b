import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { keepUnfinished, unfinishedRules } from '@/server/actions/rules/unfinished-rules';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/unfinished-rules', {
  GET: async ({ params }) => ({ body: { rules: await unfinishedRules(params.w) } }),
  POST: async ({ params, person, json }) => {
    const input = readInput('unfinishedRule', await json());
    return { status: 201, body: await keepUnfinished({ workspace: params.w, person }, input) };
  },
});

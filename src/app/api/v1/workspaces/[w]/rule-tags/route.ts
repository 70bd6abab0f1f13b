import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { tagRules } from '@/server/actions/rules/tag-rules';
import { listRules } from '@/server/queries/rules/rules';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rule-tags', {
  /** Gives several rules tags, and takes others from them. */
  POST: async ({ params, person, json }) => {
    const { rules, add, remove } = readInput('ruleTags', await json());
    await tagRules({ workspace: params.w, person, rules, add, remove });
    return { body: { rules: await listRules(await workspaceOf(params)) } };
  },
});

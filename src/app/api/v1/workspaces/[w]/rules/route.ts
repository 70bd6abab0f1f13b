import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { createRule } from '@/server/actions/rules/write-rules';
import { getRule, listRetired, listRules } from '@/server/queries/rules/rules';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rules', {
  /** `?retired=true`: those that are out of the lists and of every check. */
  GET: async ({ params, query }) => {
    const workspace = await workspaceOf(params);
    const list = query.get('retired') === 'true' ? listRetired : listRules;
    return { body: { rules: await list(workspace) } };
  },
  POST: async ({ params, person, json }) => {
    const body = readInput('newRule', await json());
    const id = await createRule({ workspace: params.w, person, ...body });
    return { status: 201, body: await getRule(await workspaceOf(params), id) };
  },
});

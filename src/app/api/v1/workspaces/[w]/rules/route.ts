import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { readInput } from '@/server/actions/input';
import { createRule } from '@/server/actions/write-rules';
import { getRule, listRules } from '@/server/queries/rules';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint<{ w: string }>('/api/v1/workspaces/{w}/rules', {
  GET: async ({ params }) => ({
    body: { rules: await listRules(await workspaceOf(params)) },
  }),
  POST: async ({ params, person, json }) => {
    const body = readInput('newRule', await json());
    const id = await createRule({ workspace: params.w, person, ...body });
    return { status: 201, body: await getRule(await workspaceOf(params), id) };
  },
});

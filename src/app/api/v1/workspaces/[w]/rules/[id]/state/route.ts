import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { changeState } from '@/server/actions/rules/change-state';
import { getRule } from '@/server/queries/rules/rules';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rules/{id}/state', {
  POST: async ({ params, person, json }) => {
    const input = readInput('ruleState', await json());
    const by = { workspace: params.w, person };
    const changed = await changeState({ ...by, id: params.id, ...input });
    return { body: { rule: await getRule(await workspaceOf(params), params.id), ...changed } };
  },
});

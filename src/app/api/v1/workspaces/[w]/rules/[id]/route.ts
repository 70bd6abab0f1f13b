import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { changeRule, deleteDraft } from '@/server/actions/rules/write-rules';
import { getRule } from '@/server/queries/rules/rules';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rules/{id}', {
  GET: async ({ params }) => ({
    body: await getRule(await workspaceOf(params), params.id),
  }),
  PATCH: async ({ params, person, json }) => {
    const body = readInput('rulePatch', await json());
    await changeRule({ workspace: params.w, person, id: params.id, ...body });
    return { body: await getRule(await workspaceOf(params), params.id) };
  },
  /** Removes a draft; a rule that has been live stays. */
  DELETE: async ({ params, person }) => {
    await deleteDraft({ workspace: params.w, person, id: params.id });
    return { status: 204 };
  },
});

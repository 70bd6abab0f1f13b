import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { bringUpToDate } from '@/server/actions/rules/bring-up-to-date';
import { getRule } from '@/server/queries/rules/rules';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/rules/{id}/recalculations',
  {
    /** Works out now what waits for a rule of a slower pace. */
    POST: async ({ params, person }) => {
      const by = { workspace: params.w, person };
      await getRule(await workspaceOf(params), params.id);
      const brought = await bringUpToDate({ ...by, rules: [params.id] });
      return { body: { ...brought, rule: await getRule(await workspaceOf(params), params.id) } };
    },
  },
);

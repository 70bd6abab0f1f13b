import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { strengthOfRule } from '@/server/queries/rules/strength';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rules/{id}/strength', {
  /** How strong the rule's proofs are: of the ways to change it how many a proof notices, and cases that would notice the others. */
  GET: async ({ params, tell }) => {
    const { key } = await workspaceOf(params);
    return { body: await strengthOfRule(key, params.id, tell) };
  },
});

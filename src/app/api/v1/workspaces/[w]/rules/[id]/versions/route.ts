import { endpoint } from '@/app/api/endpoint';
import { ruleVersions } from '@/server/queries/rules/rule-versions';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rules/{id}/versions', {
  /** A rule's versions, the newest first. */
  GET: async ({ params }) => ({
    body: { versions: await ruleVersions(params.w, params.id) },
  }),
});

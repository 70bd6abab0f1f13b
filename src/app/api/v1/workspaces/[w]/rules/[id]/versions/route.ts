import { route } from '@/app/api/answer';
import { ruleVersions } from '@/server/queries/rule-versions';

/** A rule's versions, the newest first. */
export const GET = route<{ w: string; id: string }>(async ({ params }) => ({
  body: { versions: await ruleVersions(params.w, params.id) },
}));

import { route, workspaceOf } from '@/app/api/answer';
import { listProposals } from '@/server/queries/proposals';

/** What waits for people; `?decided=true` what was decided. */
export const GET = route<{ w: string }>(async ({ params, query }) => ({
  body: await listProposals(await workspaceOf(params), query.get('decided') === 'true'),
}));

import { route, runBefore, wholeNumber, workspaceOf } from '@/app/api/answer';
import { listRuns } from '@/server/queries/runs';

/** `?before=run&limit=` */
export const GET = route<{ w: string }>(async ({ params, query }) => {
  const limit = Math.max(1, wholeNumber(query.get('limit'), 50, 200, 'limit'));
  return { body: await listRuns(await workspaceOf(params), runBefore(query), limit) };
});

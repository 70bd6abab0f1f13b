import { route, wholeNumber, workspaceOf } from '@/app/api/answer';
import { listRuns } from '@/server/queries/runs';

/** `?before=run&limit=` */
export const GET = route<{ w: string }>(async ({ params, query }) => {
  const before = query.get('before');
  const from = before === null ? null : String(wholeNumber(before, 0, Number.MAX_SAFE_INTEGER, 'before'));
  const limit = Math.max(1, wholeNumber(query.get('limit'), 50, 200, 'limit'));
  return { body: await listRuns(await workspaceOf(params), from, limit) };
});

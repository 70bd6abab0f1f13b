import { route, runBefore, wholeNumber, workspaceOf } from '@/app/api/answer';
import { getHistory } from '@/server/queries/history';

/** `?before=run&limit=` */
export const GET = route<{ w: string; type: string; id: string }>(async ({ params, query }) => {
  const { type, id } = params;
  const limit = Math.max(1, wholeNumber(query.get('limit'), 50, 200, 'limit'));
  return { body: await getHistory(await workspaceOf(params), { type, id, before: runBefore(query), limit }) };
});

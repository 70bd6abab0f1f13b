import { route, wholeNumber, workspaceOf } from '@/app/api/answer';
import { getExplanation } from '@/server/queries/explanation';

/** `?from=&limit=` give a page of what is in it. */
export const GET = route<{ w: string; type: string; id: string; field: string }>(
  async ({ params, query }) => {
    const { type, id, field } = params;
    const from = wholeNumber(query.get('from'), 0, 100_000_000, 'from');
    const limit = Math.max(1, wholeNumber(query.get('limit'), 200, 500, 'limit'));
    return { body: await getExplanation(await workspaceOf(params), { type, id, field, from, limit }) };
  },
);

import { runBefore, wholeNumber } from '@/app/api/answer';
import { endpoint, workspaceOf, workspaceSeen } from '@/app/api/endpoint';
import { checkSeen } from '@/server/queries/records/records';
import { historySeen } from '@/server/queries/records/seen-part';
import { getHistory } from '@/server/queries/ledger/history';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/records/{type}/{id}/history',
  {
    /** `?before=run&limit=` */
    GET: async (asked) => {
      const { params, query } = asked;
      const { type, id } = params;
      const limit = wholeNumber(query.get('limit'), 50, { least: 1, most: 200, name: 'limit' });
      const seen = await workspaceSeen(asked);
      if (seen.sight) await checkSeen(seen, type, id);
      const history = await getHistory(await workspaceOf(params), {
        type,
        id,
        before: runBefore(query),
        limit,
      });
      return { body: historySeen(seen, type, history) };
    },
  },
);

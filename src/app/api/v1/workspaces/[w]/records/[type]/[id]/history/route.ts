import { runBefore, wholeNumber } from '@/app/api/answer';
import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { getHistory } from '@/server/queries/ledger/history';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/records/{type}/{id}/history',
  {
    /** `?before=run&limit=` */
    GET: async ({ params, query }) => {
      const { type, id } = params;
      const limit = wholeNumber(query.get('limit'), 50, { least: 1, most: 200, name: 'limit' });
      return {
        body: await getHistory(await workspaceOf(params), { type, id, before: runBefore(query), limit }),
      };
    },
  },
);

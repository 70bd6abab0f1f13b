import { runBefore, wholeNumber } from '@/app/api/answer';
import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { listRuns } from '@/server/queries/ledger/runs';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/runs', {
  /** `?before=run&limit=` */
  GET: async ({ params, query }) => {
    const limit = wholeNumber(query.get('limit'), 50, { least: 1, most: 200, name: 'limit' });
    return { body: await listRuns(await workspaceOf(params), runBefore(query), limit) };
  },
});

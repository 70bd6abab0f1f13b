import { wholeNumber } from '@/app/api/answer';
import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { getRun, RUN_PAGE } from '@/server/queries/ledger/runs';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/runs/{run}', {
  /** `?after=` the `next` of the page before, `?limit=` records of a page. */
  GET: async ({ params, query }) => {
    const limit = wholeNumber(query.get('limit'), RUN_PAGE, { least: 1, most: 1_000, name: 'limit' });
    return { body: await getRun(await workspaceOf(params), params.run, query.get('after'), limit) };
  },
});

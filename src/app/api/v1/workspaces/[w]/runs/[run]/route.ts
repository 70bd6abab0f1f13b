import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { getRun } from '@/server/queries/runs';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint<{ w: string; run: string }>(
  '/api/v1/workspaces/{w}/runs/{run}',
  {
    /** `?after=` the `next` of the page before. */
    GET: async ({ params, query }) => ({
      body: await getRun(await workspaceOf(params), params.run, query.get('after')),
    }),
  },
);

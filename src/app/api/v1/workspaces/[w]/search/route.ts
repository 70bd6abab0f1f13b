import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { searchEverything } from '@/server/queries/records/search';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/search', {
  /** `?text=` */
  GET: async ({ params, query }) => ({
    body: {
      records: await searchEverything(await workspaceOf(params), (query.get('text') ?? '').slice(0, 200)),
    },
  }),
});

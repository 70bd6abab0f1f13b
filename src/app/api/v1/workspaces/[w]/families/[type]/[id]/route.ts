import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { getFamily } from '@/server/queries/records/family';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/families/{type}/{id}', {
  /** `?whole=type,type`: all records of these types come along, where they aren't too many. */
  GET: async ({ params, query }) => ({
    body: await getFamily(
      await workspaceOf(params),
      params.type,
      params.id,
      query.get('whole')?.split(',').slice(0, 5) ?? [],
    ),
  }),
});

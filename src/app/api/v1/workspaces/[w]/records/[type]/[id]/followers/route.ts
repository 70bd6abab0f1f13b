import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { getDependants } from '@/server/queries/records/dependants';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/records/{type}/{id}/followers',
  {
    GET: async ({ params }) => ({
      body: { followers: await getDependants(await workspaceOf(params), params.type, params.id) },
    }),
  },
);

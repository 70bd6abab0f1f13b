import { endpoint } from '@/app/api/endpoint';
import { administering } from '@/app/api/entering';
import { listServices, makeService } from '@/server/actions/workspaces/services';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/services', {
  /** Programs of the workspace's own, with their tokens. */
  GET: async ({ params }) => ({ body: { services: await listServices(params.w) } }),
  POST: async ({ params, json, ...asking }) => ({
    status: 201,
    body: await makeService(administering(params.w, asking), readInput('newService', await json())),
  }),
});

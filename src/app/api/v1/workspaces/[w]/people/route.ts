import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { listPeople } from '@/server/queries/workspaces/people';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/people', {
  GET: async ({ params }) => ({
    body: { people: await listPeople(await workspaceOf(params)) },
  }),
});

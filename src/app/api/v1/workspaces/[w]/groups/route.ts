import { endpoint } from '@/app/api/endpoint';
import { groupsIn } from '@/server/actions/workspaces/groups';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/groups', {
  /** All groups of the installation, with what each is here. */
  GET: async ({ params }) => ({ body: { groups: await groupsIn(params.w) } }),
});

import { endpoint } from '@/app/api/endpoint';
import { listGroups, makeGroup } from '@/server/actions/workspaces/groups';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/groups', {
  /** All groups of the installation, with who is in them. */
  GET: async () => ({ body: { groups: await listGroups() } }),
  POST: async ({ json, person }) => ({
    ...{ status: 201, body: await makeGroup(readInput('newGroup', await json()), person) },
  }),
});

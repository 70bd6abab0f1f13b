import { endpoint } from '@/app/api/endpoint';
import { administering } from '@/app/api/entering';
import { makeRole } from '@/server/actions/workspaces/own-roles';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/roles', {
  /** Makes a role of the workspace's own. Those that there are stand with its people. */
  POST: async ({ params, json, ...asking }) => ({
    status: 201,
    body: await makeRole(administering(params.w, asking), readInput('ownRole', await json())),
  }),
});

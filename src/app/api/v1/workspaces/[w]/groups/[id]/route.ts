import { endpoint } from '@/app/api/endpoint';
import { administering } from '@/app/api/entering';
import { changeGroupAccess } from '@/server/actions/workspaces/groups';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/groups/{id}', {
  /** Says what all of a group are here from now on. */
  PATCH: async ({ params, json, ...asking }) => {
    const { access } = readInput('groupAccess', await json());
    return { body: await changeGroupAccess(administering(params.w, asking), params.id, access) };
  },
});

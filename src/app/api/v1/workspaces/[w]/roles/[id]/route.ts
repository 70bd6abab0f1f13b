import { endpoint } from '@/app/api/endpoint';
import { administering } from '@/app/api/entering';
import { changeRole, removeRole } from '@/server/actions/workspaces/own-roles';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/roles/{id}', {
  /** Changes a role of the workspace's own, for everybody who has it. */
  PATCH: async ({ params, json, ...asking }) => {
    const role = readInput('ownRole', await json());
    return { body: await changeRole(administering(params.w, asking), params.id, role) };
  },
  DELETE: async ({ params, ...asking }) => {
    await removeRole(administering(params.w, asking), params.id);
    return { status: 204 };
  },
});

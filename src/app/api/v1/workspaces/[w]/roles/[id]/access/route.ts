import { endpoint } from '@/app/api/endpoint';
import { administering } from '@/app/api/entering';
import { changeRoleAccess, roleAccess } from '@/server/actions/workspaces/role-access';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/roles/{id}/access', {
  /** What a role sees and may less than all, by type. */
  GET: async ({ params }) => ({ body: { access: await roleAccess(params.w, params.id) } }),
  /** Says it anew, for everybody who has the role, at once. */
  POST: async ({ params, json, ...asking }) => {
    const { access } = readInput('roleAccess', await json());
    const by = administering(params.w, asking);
    return { body: { access: await changeRoleAccess(by, params.id, access) } };
  },
});

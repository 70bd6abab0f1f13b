import { endpoint } from '@/app/api/endpoint';
import { administering } from '@/app/api/entering';
import { changeAccess, endMembership } from '@/server/actions/workspaces/members';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/people/{id}', {
  /** Says what somebody may do from now on. */
  PATCH: async ({ params, json, ...asking }) => {
    const { access } = readInput('memberPatch', await json());
    const by = administering(params.w, asking);
    return { body: await changeAccess(by, params.id, access) };
  },
  /** Somebody is no longer here. */
  DELETE: async ({ params, ...asking }) => {
    const by = administering(params.w, asking);
    await endMembership(by, params.id);
    return { status: 204 };
  },
});

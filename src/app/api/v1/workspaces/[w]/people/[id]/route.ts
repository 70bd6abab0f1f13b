import { endpoint } from '@/app/api/endpoint';
import { changeAccess, endMembership } from '@/server/actions/workspaces/members';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/people/{id}', {
  /** Says what somebody may do from now on. */
  PATCH: async ({ params, json, person, signedIn }) => {
    const { access } = readInput('memberPatch', await json());
    const by = { workspace: params.w, person, isOperator: signedIn?.isOperator ?? false };
    return { body: await changeAccess(by, params.id, access) };
  },
  /** Somebody is no longer here. */
  DELETE: async ({ params, person, signedIn }) => {
    const by = { workspace: params.w, person, isOperator: signedIn?.isOperator ?? false };
    await endMembership(by, params.id);
    return { status: 204 };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { administering, refuseInDemo } from '@/app/api/entering';
import { demandSecond } from '@/server/actions/workspaces/own-roles';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/second-step-roles', {
  /** Says which roles want a second step of who signs in. */
  POST: async ({ params, json, ...asking }) => {
    refuseInDemo();
    const { roles } = readInput('secondStepRoles', await json());
    await demandSecond(administering(params.w, asking), roles, asking.signedIn?.factors ?? 1);
    return { status: 204 };
  },
});

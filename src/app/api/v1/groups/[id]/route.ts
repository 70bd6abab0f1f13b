import { endpoint } from '@/app/api/endpoint';
import { changeGroup, removeGroup } from '@/server/actions/workspaces/groups';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/groups/{id}', {
  PATCH: async ({ params, json, person }) => ({
    body: await changeGroup(params.id, readInput('groupPatch', await json()), person),
  }),
  DELETE: async ({ params, person }) => {
    await removeGroup(params.id, person);
    return { status: 204 };
  },
});

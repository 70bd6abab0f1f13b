import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { changeRequest, removeRequest } from '@/server/actions/rules/requests';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/requests/{id}', {
  PATCH: async ({ params, person, json }) => {
    const patch = readInput('requestPatch', await json());
    const by = { workspace: params.w, person };
    return { body: await changeRequest(by, params.id, patch) };
  },
  DELETE: async ({ params, person }) => {
    await removeRequest({ workspace: params.w, person }, params.id);
    return { status: 204 };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { changeList, removeList } from '@/server/actions/records/saved-lists';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/lists/{id}', {
  PATCH: async ({ params, person, json }) => {
    const input = readInput('listPatch', await json());
    return { body: await changeList({ workspace: params.w, person }, params.id, input) };
  },
  DELETE: async ({ params, person }) => {
    await removeList({ workspace: params.w, person }, params.id);
    return { status: 204 };
  },
});

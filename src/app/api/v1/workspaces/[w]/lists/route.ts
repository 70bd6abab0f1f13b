import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { addList, savedLists } from '@/server/actions/records/saved-lists';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/lists', {
  GET: async ({ params }) => ({
    body: { lists: await savedLists(params.w) },
  }),
  POST: async ({ params, person, json }) => {
    const input = readInput('newList', await json());
    return { status: 201, body: await addList({ workspace: params.w, person }, input) };
  },
});

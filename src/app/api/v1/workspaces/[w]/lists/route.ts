import { endpoint, workspaceSeen } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { addList, listProblems, savedLists } from '@/server/actions/records/saved-lists';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/lists', {
  GET: async (asked) => {
    const lists = await savedLists(asked.params.w);
    const { model, sight } = await workspaceSeen(asked);
    // A list that reads what is hidden isn't told of.
    const seen = sight
      ? lists.filter(({ definition }) => listProblems(model, definition).length === 0)
      : lists;
    return { body: { lists: seen } };
  },
  POST: async ({ params, person, json }) => {
    const input = readInput('newList', await json());
    return { status: 201, body: await addList({ workspace: params.w, person }, input) };
  },
});

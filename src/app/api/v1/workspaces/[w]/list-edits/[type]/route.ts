import { endpoint } from '@/app/api/endpoint';
import { editList } from '@/server/actions/records/edit-list';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/list-edits/{type}', {
  /** Gives all records of a list the same values, as one run. */
  POST: async ({ params, person, json, tell }) => {
    const edit = readInput('listEdit', await json());
    const by = { workspace: params.w, person, type: params.type, tell };
    return { status: 201, body: await editList({ ...edit, ...by }) };
  },
});

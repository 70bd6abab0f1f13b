import { endpoint } from '@/app/api/endpoint';
import { rehearseListEdit } from '@/server/actions/records/edit-list';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/list-edit-rehearsals/{type}',
  {
    /** What an edit of all records of a list would do. Saves nothing. */
    POST: async ({ params, person, json, tell }) => {
      const edit = readInput('listEditRehearsal', await json());
      return {
        body: await rehearseListEdit({
          ...edit,
          workspace: params.w,
          person,
          type: params.type,
          tell,
        }),
      };
    },
  },
);

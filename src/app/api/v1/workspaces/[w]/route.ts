import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { changeWorkspace, removeConfirmed } from '@/server/actions/workspaces/make-workspace';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}', {
  PATCH: async ({ params, json, person }) => {
    return { body: await changeWorkspace(params.w, readInput('workspacePatch', await json()), person) };
  },
  /** Removes a workspace with all that is in it; the body holds its name, typed to confirm it. */
  DELETE: async ({ params, json, person }) => {
    const { confirmation } = readInput('workspaceRemoval', await json());
    await removeConfirmed(params.w, confirmation, person);
    return { status: 204 };
  },
});

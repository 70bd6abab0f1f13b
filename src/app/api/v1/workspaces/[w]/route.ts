import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { removeConfirmed, renameWorkspace } from '@/server/actions/workspaces/make-workspace';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}', {
  PATCH: async ({ params, json, person }) => {
    const { name } = readInput('workspacePatch', await json());
    return { body: await renameWorkspace(params.w, name, person) };
  },
  /** Removes a workspace with all that is in it; the body holds its name, typed to confirm it. */
  DELETE: async ({ params, json, person }) => {
    const { confirmation } = readInput('workspaceRemoval', await json());
    await removeConfirmed(params.w, confirmation, person);
    return { status: 204 };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { addWorkspace, listWorkspaces, workspacesOf } from '@/server/actions/workspaces/make-workspace';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces', {
  /** Those in which one takes part; in the demo all. */
  GET: async ({ signedIn }) => ({
    body: { workspaces: signedIn ? await workspacesOf(signedIn.person) : await listWorkspaces() },
  }),
  /** Makes an empty workspace, or a copy of another. */
  POST: async ({ json, person }) => {
    const input = readInput('newWorkspace', await json());
    return { status: 201, body: await addWorkspace(input, person) };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/actions/input';
import { addWorkspace, listWorkspaces } from '@/server/actions/make-workspace';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces', {
  GET: async () => ({ body: { workspaces: await listWorkspaces() } }),
  /** Makes an empty workspace, or a copy of another. */
  POST: async ({ json, person }) => {
    const input = readInput('newWorkspace', await json());
    return { status: 201, body: await addWorkspace(input, person) };
  },
});

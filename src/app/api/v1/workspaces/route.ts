import { jsonBody, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { addWorkspace, listWorkspaces } from '@/server/actions/make-workspace';

export const GET = route(async () => ({ body: { workspaces: await listWorkspaces() } }));

/** Makes an empty workspace, or a copy of another. */
export const POST = route(async ({ request }) => {
  const input = readInput('newWorkspace', await jsonBody(request));
  return { status: 201, body: await addWorkspace(input) };
});

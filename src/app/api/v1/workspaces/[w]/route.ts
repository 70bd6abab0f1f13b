import { jsonBody, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { removeConfirmed, renameWorkspace } from '@/server/actions/make-workspace';

export const PATCH = route<{ w: string }>(async ({ request, params }) => {
  const { name } = readInput('workspacePatch', await jsonBody(request));
  return { body: await renameWorkspace(params.w, name) };
});

/** Removes a workspace with all that is in it; the body holds its name, typed to confirm it. */
export const DELETE = route<{ w: string }>(async ({ request, params }) => {
  const { confirmation } = readInput('workspaceRemoval', await jsonBody(request));
  await removeConfirmed(params.w, confirmation);
  return { status: 204 };
});

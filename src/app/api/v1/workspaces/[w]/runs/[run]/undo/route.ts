import { personOf, route, workspaceOf } from '@/app/api/answer';
import { undoImport, undoView } from '@/server/actions/undo-import';

/** The edits that undo a run, and what of it is left; nothing is changed until they are sent. */
export const GET = route<{ w: string; run: string }>(async ({ params }) => ({
  body: await undoView(await workspaceOf(params), params.run),
}));

/** Undoes an import as a set, of any size. */
export const POST = route<{ w: string; run: string }>(async ({ request, params }) => ({
  status: 201,
  body: await undoImport({ workspace: params.w, person: personOf(request), run: params.run }),
}));

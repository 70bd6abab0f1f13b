import { route, workspaceOf } from '@/app/api/answer';
import { undoOf } from '@/server/queries/undo';

/** The edits that undo a run, and what of it is left; nothing is changed until they are sent. */
export const GET = route<{ w: string; run: string }>(async ({ params }) => ({
  body: await undoOf(await workspaceOf(params), params.run),
}));

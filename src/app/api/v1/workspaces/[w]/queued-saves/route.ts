import { route, workspaceOf } from '@/app/api/answer';
import { listQueued } from '@/server/queries/queued-saves';

/** Saves that were put off and aren't carried out yet. */
export const GET = route<{ w: string }>(async ({ params }) => ({
  body: { saves: await listQueued(await workspaceOf(params)) },
}));

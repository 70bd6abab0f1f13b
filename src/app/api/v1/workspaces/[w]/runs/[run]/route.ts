import { route, workspaceOf } from '@/app/api/answer';
import { getRun } from '@/server/queries/runs';

export const GET = route<{ w: string; run: string }>(async ({ params }) => ({
  body: await getRun(await workspaceOf(params), params.run),
}));

import { route, workspaceOf } from '@/app/api/answer';
import { getRun } from '@/server/queries/runs';

/** `?after=` the `next` of the page before. */
export const GET = route<{ w: string; run: string }>(async ({ params, query }) => ({
  body: await getRun(await workspaceOf(params), params.run, query.get('after')),
}));

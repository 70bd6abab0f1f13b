import { wholeNumber } from '@/app/api/answer';
import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { LEFT_TOLD, rehearseUndo, undoRun } from '@/server/undo/undo-run';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/runs/{run}/undo', {
  /** What undoing a run would write back, what follows, and what of it is left; saves nothing. `?from=` and `?limit=` of what is left. */
  GET: async ({ params, query }) => {
    const limit = wholeNumber(query.get('limit'), LEFT_TOLD, { least: 1, most: 5_000, name: 'limit' });
    const from = wholeNumber(query.get('from'), 0, { most: 100_000_000, name: 'from' });
    return { body: await rehearseUndo(await workspaceOf(params), params.run, { limit, from }) };
  },
  /** Undoes a run, of any size. */
  POST: async ({ params, person }) => ({
    status: 201,
    body: await undoRun({ workspace: params.w, person, run: params.run }),
  }),
});

import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { undoImport, undoView } from '@/server/actions/undo-import';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint<{ w: string; run: string }>(
  '/api/v1/workspaces/{w}/runs/{run}/undo',
  {
    /** The edits that undo a run, and what of it is left; nothing is changed until they are sent. */
    GET: async ({ params }) => ({
      body: await undoView(await workspaceOf(params), params.run),
    }),
    /** Undoes an import as a set, of any size. */
    POST: async ({ params, person }) => ({
      status: 201,
      body: await undoImport({ workspace: params.w, person, run: params.run }),
    }),
  },
);

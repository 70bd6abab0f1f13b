import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { listQueued } from '@/server/queries/today/queued-saves';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/queued-saves', {
  /** Saves that were put off and aren't carried out yet. */
  GET: async ({ params }) => ({
    body: { saves: await listQueued(await workspaceOf(params)) },
  }),
});

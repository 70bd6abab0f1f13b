import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { notices } from '@/server/queries/today/notices';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/notices', {
  /** What went wrong by itself and wants a person. */
  GET: async ({ params }) => ({ body: { notices: await notices(await workspaceOf(params)) } }),
});

import { endpoint, workspaceSeen } from '@/app/api/endpoint';
import { searchEverything } from '@/server/queries/records/search';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/search', {
  /** `?text=` */
  GET: async (asked) => {
    const text = (asked.query.get('text') ?? '').slice(0, 200);
    return { body: { records: await searchEverything(await workspaceSeen(asked), text) } };
  },
});

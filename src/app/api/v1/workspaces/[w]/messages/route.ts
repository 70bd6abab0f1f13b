import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { listMessages } from '@/server/queries/today/proposals';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/messages', {
  /** What rules wrote to people in charge, the latest first; 200 at most. Who sees a part is told what was written to themselves. */
  GET: async ({ params, person, sight }) => ({
    body: {
      messages: await listMessages(await workspaceOf(params), sight ? person : null),
    },
  }),
});

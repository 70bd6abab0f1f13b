import { runBefore, wholeNumber } from '@/app/api/answer';
import { endpoint } from '@/app/api/endpoint';
import { installationEvents } from '@/server/queries/workspaces/installation-events';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/installation-events', {
  /** What was done to the installation itself. `?before=id&limit=` */
  GET: async ({ query }) => {
    const limit = wholeNumber(query.get('limit'), 50, { least: 1, most: 200, name: 'limit' });
    return { body: await installationEvents(runBefore(query), limit) };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { acceptanceSheet } from '@/server/queries/rules/acceptance-sheet';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/requests/{id}/sheet', {
  /** All that shows whether the request is met. */
  GET: async ({ params }) => ({
    body: await acceptanceSheet(params.w, params.id),
  }),
});

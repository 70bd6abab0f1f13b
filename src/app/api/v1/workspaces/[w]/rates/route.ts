import { endpoint } from '@/app/api/endpoint';
import { fetchRates } from '@/server/actions/records/fetch-rates';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rates', {
  /** Asks the rate service for rates that the workspace doesn't have yet. */
  POST: async ({ params, person }) => ({
    body: await fetchRates({ workspace: params.w, person }),
  }),
});

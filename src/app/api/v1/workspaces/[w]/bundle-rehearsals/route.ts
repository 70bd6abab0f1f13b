import { endpoint } from '@/app/api/endpoint';
import { rehearseMerge } from '@/server/actions/bundles/merge-bundle';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/bundle-rehearsals', {
  /** What taking differences over would do. */
  POST: async ({ params, json }) => ({
    body: await rehearseMerge(params.w, readInput('merge', await json())),
  }),
});

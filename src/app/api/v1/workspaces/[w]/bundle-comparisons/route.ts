import { endpoint } from '@/app/api/endpoint';
import { compareBundle } from '@/server/actions/bundles/merge-bundle';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/bundle-comparisons', {
  /** What the workspace and the bundle in the body don't have alike. */
  POST: async ({ params, body }) => ({
    body: await compareBundle(params.w, await body.text()),
  }),
});

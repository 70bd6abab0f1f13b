import { endpoint } from '@/app/api/endpoint';
import { recordEdits } from '@/server/actions/bundles/bundle-records';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/bundle-record-edits', {
  /** The edits that take chosen differences of a bundle's records over: rehearse and save them as any others. */
  POST: async ({ params, json }) => ({
    body: { edits: await recordEdits(params.w, readInput('merge', await json())) },
  }),
});

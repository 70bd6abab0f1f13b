import { endpoint } from '@/app/api/endpoint';
import { importBundle } from '@/server/actions/bundles/import-bundle';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/bundles', {
  /** Makes a new workspace of a bundle; `?name=` gives it another name. */
  POST: async ({ query, body, person }) => ({
    status: 201,
    body: await importBundle(await body.text(), query.get('name'), person),
  }),
});

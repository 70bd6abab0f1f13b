import { endpoint } from '@/app/api/endpoint';
import { bundleSchema } from '@/server/forms/bundle-schema';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/bundle-schema', {
  /** The form of a bundle, as JSON Schema. */
  GET: () => Promise.resolve({ body: bundleSchema() }),
});

import { route } from '@/app/api/answer';
import { bundleSchema } from '@/server/actions/bundle-schema';

/** The form of a bundle, as JSON Schema. */
export const GET = route(() => Promise.resolve({ body: bundleSchema() }));

import { endpoint } from '@/app/api/endpoint';
import { everybody } from '@/server/queries/workspaces/people';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/people', {
  /** Everybody of the installation. */
  GET: async () => ({ body: { people: await everybody() } }),
});

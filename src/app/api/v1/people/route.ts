import { endpoint } from '@/app/api/endpoint';
import { everybody } from '@/server/queries/workspaces/people';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/people', {
  /** Everybody of the installation; to who doesn't see to it, themselves. */
  GET: async ({ signedIn }) => {
    const people = await everybody();
    const isAll = !signedIn || signedIn.isOperator;
    return { body: { people: isAll ? people : people.filter(({ id }) => id === signedIn.person) } };
  },
});

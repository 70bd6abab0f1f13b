import { endpoint } from '@/app/api/endpoint';
import { forgetPerson, personalData } from '@/server/actions/workspaces/personal-data';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/people/{id}/data', {
  /** All that Oikon itself keeps of a person. */
  GET: async ({ params }) => ({ body: await personalData(params.id) }),
  /** Takes their name and e-mail out for good; the body holds their name, typed to confirm it. */
  DELETE: async ({ params, json, person }) => {
    const { confirmation } = readInput('workspaceRemoval', await json());
    await forgetPerson(params.id, confirmation, person);
    return { status: 204 };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { chooseForm } from '@/server/actions/workspaces/forms';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/people/{id}', {
  /** How one writes numbers and dates oneself; `null`: as each workspace does. */
  PATCH: async ({ params, json, person }) => {
    const { form } = readInput('personPatch', await json());
    return { body: await chooseForm(params.id, form, person) };
  },
});

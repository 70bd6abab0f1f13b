import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { keepFamiliesBy, keepFamily, sampleFamilies } from '@/server/actions/rules/sample-families';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/sample-families', {
  GET: async ({ params }) => ({
    body: { families: await sampleFamilies(params.w) },
  }),
  /** Keeps a family picked from the data or handed over, or one for each option of a field. */
  POST: async ({ params, person, json }) => {
    const input = readInput('newFamily', await json());
    const by = { workspace: params.w, person };
    const families = 'field' in input ? await keepFamiliesBy(by, input) : [await keepFamily(by, input)];
    return { status: 201, body: { families } };
  },
});

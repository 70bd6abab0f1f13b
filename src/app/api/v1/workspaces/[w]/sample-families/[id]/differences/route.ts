import { endpoint } from '@/app/api/endpoint';
import { sampleFamilyDrift } from '@/server/actions/rules/sample-families';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/sample-families/{id}/differences',
  {
    /** What of the kept family is otherwise in the data by now. */
    GET: async ({ params }) => ({
      body: await sampleFamilyDrift(params.w, params.id),
    }),
  },
);

import { endpoint } from '@/app/api/endpoint';
import { removeFamily, sampleFamily } from '@/server/actions/rules/sample-families';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/sample-families/{id}', {
  GET: async ({ params }) => ({ body: await sampleFamily(params.w, params.id) }),
  DELETE: async ({ params, person }) => {
    await removeFamily({ workspace: params.w, person }, params.id);
    return { status: 204 };
  },
});

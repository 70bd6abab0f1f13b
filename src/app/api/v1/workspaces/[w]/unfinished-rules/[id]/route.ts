import { endpoint } from '@/app/api/endpoint';
import { forgetUnfinished } from '@/server/actions/rules/unfinished-rules';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/unfinished-rules/{id}', {
  DELETE: async ({ params, person }) => {
    await forgetUnfinished({ workspace: params.w, person }, params.id);
    return { status: 204 };
  },
});

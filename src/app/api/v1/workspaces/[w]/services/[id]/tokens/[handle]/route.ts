import { endpoint } from '@/app/api/endpoint';
import { administering } from '@/app/api/entering';
import { endServiceToken } from '@/server/actions/workspaces/services';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/services/{id}/tokens/{handle}',
  {
    /** Ends a token of a program, at once. */
    DELETE: async ({ params, ...asking }) => {
      await endServiceToken(administering(params.w, asking), params.id, params.handle);
      return { status: 204 };
    },
  },
);

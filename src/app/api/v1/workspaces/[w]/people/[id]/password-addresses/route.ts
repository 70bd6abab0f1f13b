import { endpoint } from '@/app/api/endpoint';
import { administering, refuseInDemo } from '@/app/api/entering';
import { addressFor } from '@/server/actions/workspaces/members';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint(
  '/api/v1/workspaces/{w}/people/{id}/password-addresses',
  {
    /** Makes what stands in an address by which somebody chooses a password; those of before aren't good any more. */
    POST: async ({ params, ...asking }) => {
      refuseInDemo();
      const by = administering(params.w, asking);
      return { status: 201, body: { secret: await addressFor(by, params.id) } };
    },
  },
);

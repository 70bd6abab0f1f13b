import { endpoint } from '@/app/api/endpoint';
import { administering, refuseInDemo } from '@/app/api/entering';
import { makeServiceToken } from '@/server/actions/workspaces/services';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/services/{id}/tokens', {
  /** Makes a token of a program; it is told once. */
  POST: async ({ params, json, ...asking }) => {
    refuseInDemo();
    const token = readInput('serviceToken', await json());
    const by = administering(params.w, asking);
    return { status: 201, body: { token: await makeServiceToken(by, params.id, token) } };
  },
});

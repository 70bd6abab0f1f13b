import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { agreeTo } from '@/server/actions/rules/requests';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/requests/{id}/agreements', {
  /** Writes down who agrees to what a request came to. */
  POST: async ({ params, person, json }) => {
    const input = readInput('agreement', await json());
    const by = { workspace: params.w, person };
    return { status: 201, body: await agreeTo(by, params.id, input) };
  },
});

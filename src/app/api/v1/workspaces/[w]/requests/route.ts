import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { addRequest } from '@/server/actions/rules/requests';
import { requestViews } from '@/server/queries/rules/requests';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/requests', {
  /** What colleagues asked for, with how it stands. */
  GET: async ({ params }) => ({
    body: { requests: await requestViews(params.w) },
  }),
  POST: async ({ params, person, json }) => {
    const input = readInput('newRequest', await json());
    return { status: 201, body: await addRequest({ workspace: params.w, person }, input) };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { wantTwoPeople } from '@/server/actions/workspaces/two-people';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/two-people', {
  /** Says what somebody else approves from now on. */
  POST: async ({ params, person, json }) => {
    const { kinds } = readInput('twoPeople', await json());
    await wantTwoPeople({ workspace: params.w, person }, kinds);
    return { status: 204 };
  },
});

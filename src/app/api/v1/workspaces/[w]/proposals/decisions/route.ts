import { endpoint } from '@/app/api/endpoint';
import { decideProposals } from '@/server/actions/records/decide-proposals';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/proposals/decisions', {
  /** Decides proposals, each in a run of its own; what can't be done stays open and says why. */
  POST: async ({ params, person, json }) => {
    const { decisions } = readInput('decisions', await json());
    return {
      body: {
        decided: await decideProposals({ workspace: params.w, person, decisions }),
      },
    };
  },
});

import { endpoint, workspaceSeen } from '@/app/api/endpoint';
import { decideProposals } from '@/server/actions/records/decide-proposals';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/proposals/decisions', {
  /** Decides proposals, each in a run of its own; what can't be done stays open and says why. */
  POST: async (asked) => {
    const { params, person, sight, json } = asked;
    const { decisions } = readInput('decisions', await json());
    const seen = sight ? await workspaceSeen(asked) : null;
    return {
      body: {
        decided: await decideProposals({ workspace: params.w, person, decisions, seen }),
      },
    };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { takeLiveTogether } from '@/server/actions/rules/change-state';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/live-rules', {
  /** Takes several rules live in one run. */
  POST: async ({ params, person, json }) => {
    const { rules, reason } = readInput('rulesLive', await json());
    return {
      body: await takeLiveTogether({ workspace: params.w, person, ids: rules, reason }),
    };
  },
});

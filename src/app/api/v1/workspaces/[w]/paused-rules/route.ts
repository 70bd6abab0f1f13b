import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { pauseTogether } from '@/server/actions/rules/change-state';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/paused-rules', {
  /** Pauses several live rules in one run. */
  POST: async ({ params, person, json }) => {
    const { rules } = readInput('rulesMarked', await json());
    return { body: await pauseTogether({ workspace: params.w, person, ids: rules }) };
  },
});

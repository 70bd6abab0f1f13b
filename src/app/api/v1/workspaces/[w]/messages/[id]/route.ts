import { endpoint } from '@/app/api/endpoint';
import { decideMessage } from '@/server/actions/records/decide-messages';
import { readInput } from '@/server/forms/input';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/messages/{id}', {
  /** `{decision: "again" | "drop"}` of a message that was given up. */
  POST: async ({ params, person, json }) => {
    const { decision } = readInput('queueDecision', await json());
    await decideMessage({ workspace: params.w, person }, params.id, decision);
    return { body: { decision } };
  },
});

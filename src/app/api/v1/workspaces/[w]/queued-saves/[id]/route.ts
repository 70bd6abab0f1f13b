import { endpoint } from '@/app/api/endpoint';
import { readInput } from '@/server/forms/input';
import { decideQueued } from '@/server/actions/records/queued-saves';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/queued-saves/{id}', {
  /** `{decision: "again" | "drop"}`. */
  POST: async ({ params, person, json }) => {
    const { decision } = readInput('queueDecision', await json());
    await decideQueued({ workspace: params.w, person, id: params.id, decision });
    return { body: { decision } };
  },
});

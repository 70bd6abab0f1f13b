import { endpoint } from '@/app/api/endpoint';
import { asSeen, readInput } from '@/server/forms/input';
import { rehearseOnData } from '@/server/actions/records/rehearse';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/rehearsals', {
  /** Edits, and optionally draft rules, in; the ripple out. Saves nothing. */
  POST: async ({ params, person, json }) => {
    const { edits: seen, drafts } = readInput('rehearsal', await json());
    const edits = seen.map(asSeen);
    return {
      body: await rehearseOnData({ workspace: params.w, edits, drafts, person: person || null }),
    };
  },
});

import { endpoint } from '@/app/api/endpoint';
import { asSeen, readInput } from '@/server/forms/input';
import { queueSave } from '@/server/actions/records/queued-saves';
import { saveEdits } from '@/server/actions/records/save-edits';

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/changes', {
  /** Many edits, one run; with `many: "soonAfter"` put off, as a number under `queued`. */
  POST: async ({ params, person, json }) => {
    const { edits: seen, note, many } = readInput('changes', await json());
    const edits = seen.map(asSeen);
    const save = { workspace: params.w, person, edits, ...(note ? { note } : {}) };
    if (many === 'soonAfter') return { status: 202, body: { queued: await queueSave(save) } };
    return { body: await saveEdits({ ...save, asksWhereMany: many === 'ask' }) };
  },
});

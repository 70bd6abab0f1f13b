import { needRight } from '@/app/api/asking';
import { endpoint, workspaceSeen } from '@/app/api/endpoint';
import { asSeen, readInput } from '@/server/forms/input';
import { queueSave } from '@/server/actions/records/queued-saves';
import { checkEditsSeen, rippleSeen } from '@/server/queries/records/seen-part';
import { saveEdits } from '@/server/actions/records/save-edits';

/** Edits of one save that whoever may edit at all may send; more are an edit of many. */
const MOST_AT_ONCE = 100;

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/changes', {
  /** Many edits, one run; with `many: "soonAfter"` put off, as a number under `queued`. */
  POST: async (asked) => {
    const { params, person, json } = asked;
    const { edits: seen, note, many } = readInput('changes', await json());
    if (seen.length > MOST_AT_ONCE) await needRight(asked, params.w, 'editMany');
    const edits = seen.map(asSeen);
    const workspace = await workspaceSeen(asked);
    await checkEditsSeen(workspace, seen);
    const save = { workspace: params.w, person, edits, ...(note ? { note } : {}) };
    if (many === 'soonAfter') return { status: 202, body: { queued: await queueSave(save) } };
    // How many would follow isn’t told to who sees a part.
    const asksWhereMany = many === 'ask' && asked.sight === null;
    const saved = await saveEdits({ ...save, asksWhereMany });
    return { body: { ...saved, ripple: await rippleSeen(workspace, saved.ripple) } };
  },
});

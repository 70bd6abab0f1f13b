import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { queueSave } from '@/server/actions/queued-saves';
import { saveEdits } from '@/server/actions/save-edits';

/** Many edits, one run; with `many: "soonAfter"` put off, as a number under `queued`. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const { edits, note, isUndo, many } = readInput('changes', await jsonBody(request));
  const save = { workspace: params.w, person: personOf(request), edits, ...(note ? { note } : {}) };
  if (many === 'soonAfter' && !isUndo) return { status: 202, body: { queued: await queueSave(save) } };
  return {
    body: await saveEdits({
      ...save,
      ...(isUndo ? { isUndo } : {}),
      asksWhereMany: many === 'ask',
    }),
  };
});

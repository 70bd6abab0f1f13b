import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { saveEdits } from '@/server/actions/save-edits';

/** Many edits, one run. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const { edits, note, isUndo } = readInput('changes', await jsonBody(request));
  return {
    body: await saveEdits({
      workspace: params.w,
      person: personOf(request),
      edits,
      ...(note ? { note } : {}),
      ...(isUndo ? { isUndo } : {}),
    }),
  };
});

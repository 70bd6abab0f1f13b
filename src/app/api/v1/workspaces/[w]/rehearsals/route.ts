import { askerOf, jsonBody, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { rehearseOnData } from '@/server/actions/rehearse';

/** Edits, and optionally draft rules, in; the ripple out. Saves nothing. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const { edits, drafts, isUndo = false } = readInput('rehearsal', await jsonBody(request));
  return {
    body: await rehearseOnData({ workspace: params.w, edits, drafts, isUndo, person: askerOf(request) }),
  };
});

import { jsonBody, personOf, route } from '@/app/api/answer';
import { applyModelChanges } from '@/server/actions/change-model';
import { readInput } from '@/server/actions/input';

/** Changes the model as one run: all of it or nothing. */
export const POST = route<{ w: string }>(async ({ request, params }) => {
  const input = readInput('modelChange', await jsonBody(request));
  return { body: await applyModelChanges({ workspace: params.w, person: personOf(request), ...input }) };
});

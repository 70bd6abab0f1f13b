import { jsonBody, personOf } from '@/app/api/answer';
import { longRoute } from '@/app/api/long-answer';
import { editList } from '@/server/actions/edit-list';
import { readInput } from '@/server/actions/input';

/** Gives all records of a list the same values, as one run. */
export const POST = longRoute<{ w: string; type: string }>(async ({ request, params }, tell) => {
  const edit = readInput('listEdit', await jsonBody(request));
  const by = { workspace: params.w, person: personOf(request), type: params.type, tell };
  return { status: 201, body: await editList({ ...edit, ...by }) };
});

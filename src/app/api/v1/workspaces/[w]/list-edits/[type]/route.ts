import { jsonBody, personOf, route } from '@/app/api/answer';
import { editList } from '@/server/actions/edit-list';
import { readInput } from '@/server/actions/input';

/** Gives all records of a list the same values, as one run. */
export const POST = route<{ w: string; type: string }>(async ({ request, params }) => {
  const edit = readInput('listEdit', await jsonBody(request));
  const by = { workspace: params.w, person: personOf(request), type: params.type };
  return { status: 201, body: await editList({ ...edit, ...by }) };
});

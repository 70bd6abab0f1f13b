import { jsonBody, personOf } from '@/app/api/answer';
import { longRoute } from '@/app/api/long-answer';
import { rehearseListEdit } from '@/server/actions/edit-list';
import { readInput } from '@/server/actions/input';

/** What an edit of all records of a list would do. Saves nothing. */
export const POST = longRoute<{ w: string; type: string }>(async ({ request, params }, tell) => {
  const edit = readInput('listEditRehearsal', await jsonBody(request));
  return {
    body: await rehearseListEdit({
      ...edit,
      workspace: params.w,
      person: personOf(request),
      type: params.type,
      tell,
    }),
  };
});

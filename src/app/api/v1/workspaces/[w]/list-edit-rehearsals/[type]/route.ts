import { jsonBody, personOf, route } from '@/app/api/answer';
import { rehearseListEdit } from '@/server/actions/edit-list';
import { readInput } from '@/server/actions/input';

/** What an edit of all records of a list would do. Saves nothing. */
export const POST = route<{ w: string; type: string }>(async ({ request, params }) => {
  const edit = readInput('listEditRehearsal', await jsonBody(request));
  return {
    body: await rehearseListEdit({
      ...edit,
      workspace: params.w,
      person: personOf(request),
      type: params.type,
    }),
  };
});

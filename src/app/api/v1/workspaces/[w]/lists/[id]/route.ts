import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { changeList, removeList } from '@/server/actions/saved-lists';

type Params = { w: string; id: string };

export const PATCH = route<Params>(async ({ request, params }) => {
  const input = readInput('listPatch', await jsonBody(request));
  return { body: await changeList({ workspace: params.w, person: personOf(request) }, params.id, input) };
});

export const DELETE = route<Params>(async ({ request, params }) => {
  await removeList({ workspace: params.w, person: personOf(request) }, params.id);
  return { status: 204 };
});

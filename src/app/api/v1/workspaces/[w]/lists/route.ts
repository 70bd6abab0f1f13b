import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { addList, savedLists } from '@/server/actions/saved-lists';

export const GET = route<{ w: string }>(async ({ params }) => ({
  body: { lists: await savedLists(params.w) },
}));

export const POST = route<{ w: string }>(async ({ request, params }) => {
  const input = readInput('newList', await jsonBody(request));
  return { status: 201, body: await addList({ workspace: params.w, person: personOf(request) }, input) };
});

import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { addRequest } from '@/server/actions/requests';
import { requestViews } from '@/server/queries/requests';

/** What colleagues asked for, with how it stands. */
export const GET = route<{ w: string }>(async ({ params }) => ({
  body: { requests: await requestViews(params.w) },
}));

export const POST = route<{ w: string }>(async ({ request, params }) => {
  const input = readInput('newRequest', await jsonBody(request));
  return { status: 201, body: await addRequest({ workspace: params.w, person: personOf(request) }, input) };
});

import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { agreeTo } from '@/server/actions/requests';

/** Writes down who agrees to what a request came to. */
export const POST = route<{ w: string; id: string }>(async ({ request, params }) => {
  const input = readInput('agreement', await jsonBody(request));
  const by = { workspace: params.w, person: personOf(request) };
  return { status: 201, body: await agreeTo(by, params.id, input) };
});

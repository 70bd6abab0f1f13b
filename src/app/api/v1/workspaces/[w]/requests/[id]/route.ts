import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { changeRequest, removeRequest } from '@/server/actions/requests';

type Params = { w: string; id: string };

export const PATCH = route<Params>(async ({ request, params }) => {
  const patch = readInput('requestPatch', await jsonBody(request));
  const by = { workspace: params.w, person: personOf(request) };
  return { body: await changeRequest(by, params.id, patch) };
});

export const DELETE = route<Params>(async ({ request, params }) => {
  await removeRequest({ workspace: params.w, person: personOf(request) }, params.id);
  return { status: 204 };
});

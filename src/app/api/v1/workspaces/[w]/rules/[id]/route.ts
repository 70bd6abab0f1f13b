import { jsonBody, personOf, route, workspaceOf } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { changeRule, deleteDraft } from '@/server/actions/write-rules';
import { getRule } from '@/server/queries/rules';

interface Params {
  w: string;
  id: string;
}

export const GET = route<Params>(async ({ params }) => ({
  body: await getRule(await workspaceOf(params), params.id),
}));

export const PATCH = route<Params>(async ({ request, params }) => {
  const body = readInput('rulePatch', await jsonBody(request));
  await changeRule({ workspace: params.w, person: personOf(request), id: params.id, ...body });
  return { body: await getRule(await workspaceOf(params), params.id) };
});

/** Removes a draft; a rule that has been live stays. */
export const DELETE = route<Params>(async ({ request, params }) => {
  await deleteDraft({ workspace: params.w, person: personOf(request), id: params.id });
  return { status: 204 };
});

import { jsonBody, personOf, route, workspaceOf } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { createRule } from '@/server/actions/write-rules';
import { getRule, listRules } from '@/server/queries/rules';

export const GET = route<{ w: string }>(async ({ params }) => ({
  body: { rules: await listRules(await workspaceOf(params)) },
}));

export const POST = route<{ w: string }>(async ({ request, params }) => {
  const body = readInput('newRule', await jsonBody(request));
  const id = await createRule({ workspace: params.w, person: personOf(request), ...body });
  return { status: 201, body: await getRule(await workspaceOf(params), id) };
});

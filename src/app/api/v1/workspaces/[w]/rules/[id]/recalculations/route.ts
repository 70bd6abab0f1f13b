import { personOf, route, workspaceOf } from '@/app/api/answer';
import { bringUpToDate } from '@/server/actions/bring-up-to-date';
import { getRule } from '@/server/queries/rules';

/** Works out now what waits for a rule of a slower pace. */
export const POST = route<{ w: string; id: string }>(async ({ request, params }) => {
  const by = { workspace: params.w, person: personOf(request) };
  await getRule(await workspaceOf(params), params.id);
  const brought = await bringUpToDate({ ...by, rules: [params.id] });
  return { body: { ...brought, rule: await getRule(await workspaceOf(params), params.id) } };
});

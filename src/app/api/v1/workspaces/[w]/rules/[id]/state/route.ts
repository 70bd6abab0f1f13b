import { jsonBody, personOf, route, workspaceOf } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { changeState } from '@/server/actions/write-rules';
import { getRule } from '@/server/queries/rules';

export const POST = route<{ w: string; id: string }>(async ({ request, params }) => {
  const { state, actsOnMatching = false, reason, pilot } = readInput('ruleState', await jsonBody(request));
  const by = { workspace: params.w, person: personOf(request) };
  const changed = await changeState({ ...by, id: params.id, state, actsOnMatching, reason, pilot });
  return { body: { rule: await getRule(await workspaceOf(params), params.id), ...changed } };
});

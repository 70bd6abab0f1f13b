import { listKeepers } from '@/server/queries/rules';
import { route, workspaceOf } from '@/app/api/answer';

/** The model, and which rules keep which fields. */
export const GET = route<{ w: string }>(async ({ params }) => {
  const workspace = await workspaceOf(params);
  const keepers = await listKeepers(workspace);
  const { name, model, modelVersion, settledDay } = workspace;
  const { types, lists, selections, ruleDefaults } = model;
  return {
    body: { name, types, lists, selections, ruleDefaults, settledDay, version: modelVersion, keepers },
  };
});

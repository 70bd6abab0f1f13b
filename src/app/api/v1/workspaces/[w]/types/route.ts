import { listKeepers } from '@/server/queries/rules';
import { route, workspaceOf } from '@/app/api/answer';

/** The model, and which rules keep which fields. */
export const GET = route<{ w: string }>(async ({ params }) => {
  const workspace = await workspaceOf(params);
  const keepers = await listKeepers(workspace);
  return { body: { name: workspace.name, types: workspace.model.types, keepers } };
});

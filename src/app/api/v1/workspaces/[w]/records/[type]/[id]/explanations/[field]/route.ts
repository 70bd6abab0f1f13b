import { route, workspaceOf } from '@/app/api/answer';
import { getExplanation } from '@/server/queries/explanation';

export const GET = route<{ w: string; type: string; id: string; field: string }>(async ({ params }) => ({
  body: await getExplanation(await workspaceOf(params), params.type, params.id, params.field),
}));

import { route, workspaceOf } from '@/app/api/answer';
import { getFamily } from '@/server/queries/family';

export const GET = route<{ w: string; type: string; id: string }>(async ({ params }) => ({
  body: await getFamily(await workspaceOf(params), params.type, params.id),
}));

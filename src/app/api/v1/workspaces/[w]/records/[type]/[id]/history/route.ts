import { route, workspaceOf } from '@/app/api/answer';
import { getHistory } from '@/server/queries/history';

export const GET = route<{ w: string; type: string; id: string }>(async ({ params }) => ({
  body: { entries: await getHistory(await workspaceOf(params), params.type, params.id) },
}));

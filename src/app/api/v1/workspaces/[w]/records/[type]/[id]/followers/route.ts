import { route, workspaceOf } from '@/app/api/answer';
import { getFollowers } from '@/server/queries/followers';

export const GET = route<{ w: string; type: string; id: string }>(async ({ params }) => ({
  body: { followers: await getFollowers(await workspaceOf(params), params.type, params.id) },
}));

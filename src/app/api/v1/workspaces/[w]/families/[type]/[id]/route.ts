import { route, workspaceOf } from '@/app/api/answer';
import { getFamily } from '@/server/queries/family';

/** `?whole=type,type`: all records of these types come along, where they aren't too many. */
export const GET = route<{ w: string; type: string; id: string }>(async ({ params, query }) => ({
  body: await getFamily(
    await workspaceOf(params),
    params.type,
    params.id,
    query.get('whole')?.split(',').slice(0, 5) ?? [],
  ),
}));

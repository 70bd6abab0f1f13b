import { route, workspaceOf } from '@/app/api/answer';
import { searchEverything } from '@/server/queries/search';

/** `?text=` */
export const GET = route<{ w: string }>(async ({ params, query }) => ({
  body: {
    records: await searchEverything(await workspaceOf(params), (query.get('text') ?? '').slice(0, 200)),
  },
}));

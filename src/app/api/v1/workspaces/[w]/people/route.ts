import { route, workspaceOf } from '@/app/api/answer';
import { listPeople } from '@/server/queries/people';

export const GET = route<{ w: string }>(async ({ params }) => ({
  body: { people: await listPeople(await workspaceOf(params)) },
}));

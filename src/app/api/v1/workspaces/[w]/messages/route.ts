import { route, workspaceOf } from '@/app/api/answer';
import { listMessages } from '@/server/queries/proposals';

/** What rules wrote to people in charge, the latest first; 200 at most. */
export const GET = route<{ w: string }>(async ({ params }) => ({
  body: { messages: await listMessages(await workspaceOf(params)) },
}));

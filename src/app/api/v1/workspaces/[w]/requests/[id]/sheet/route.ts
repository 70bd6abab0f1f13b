import { route } from '@/app/api/answer';
import { acceptanceSheet } from '@/server/queries/acceptance-sheet';

/** All that shows whether the request is met. */
export const GET = route<{ w: string; id: string }>(async ({ params }) => ({
  body: await acceptanceSheet(params.w, params.id),
}));

import { route } from '@/app/api/answer';
import { previewLive } from '@/server/actions/preview-live';

/** What taking the rule's latest version live would change. Saves nothing. */
export const GET = route<{ w: string; id: string }>(async ({ params }) => ({
  body: await previewLive(params.w, params.id),
}));

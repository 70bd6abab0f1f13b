import { jsonBody, personOf, route } from '@/app/api/answer';
import { readInput } from '@/server/actions/input';
import { decideQueued } from '@/server/actions/queued-saves';

/** `{decision: "again" | "drop"}`. */
export const POST = route<{ w: string; id: string }>(async ({ request, params }) => {
  const { decision } = readInput('queueDecision', await jsonBody(request));
  await decideQueued({ workspace: params.w, person: personOf(request), id: params.id, decision });
  return { body: { decision } };
});

import type { Tell } from '@/server/progress';
import { Refusal } from '@/server/refusal';
import type { Answer } from './answer';

const LINES = 'application/x-ndjson';

/** Carries something out, telling its steps; answers what came of it, or the problem detail of what was refused. */
export type CarryOut = (tell: Tell) => Promise<Answer | Response>;

export const asksForLines = (request: Request): boolean =>
  request.headers.get('accept')?.includes(LINES) === true;

/**
 * The answer to long work that is asked for as JSON Lines (`Accept: application/x-ndjson`): 200 at once and then a line for each step on
 * the way (`{"progress": {…}}`), the last of which has the answer (`{"status": 201, "body": {…}}`) or what was refused
 * (`{"status": 422, "problem": {…}}`). A client that goes away stops the work; nothing of it is saved.
 */
export function linesOf(request: Request, carryOut: CarryOut): Response {
  const encoder = new TextEncoder();
  let isGone = false;
  const lines = new ReadableStream<Uint8Array>({
    async start(controller) {
      const write = (line: unknown) => {
        if (!isGone) controller.enqueue(encoder.encode(`${JSON.stringify(line)}\n`));
      };
      const tell: Tell = (progress) => {
        if (isGone || request.signal.aborted)
          throw new Refusal(409, 'stopped', 'It was stopped. Nothing was saved.');
        write({ progress });
      };
      const given = await carryOut(tell);
      if (given instanceof Response) write({ status: given.status, problem: await given.json() });
      else write({ status: given.status ?? 200, body: given.body });
      if (!isGone) controller.close();
    },
    cancel() {
      isGone = true;
    },
  });
  return new Response(lines, {
    headers: { 'Content-Type': LINES, 'Cache-Control': 'no-store, no-transform' },
  });
}

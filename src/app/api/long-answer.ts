import type { Tell } from '@/server/progress';
import { untold } from '@/server/progress';
import { Refusal } from '@/server/refusal';
import { type Handler, problemOf, type Route, route } from './answer';

type LongHandler<P> = (route: Route<P>, tell: Tell) => ReturnType<Handler<P>>;

const LINES = 'application/x-ndjson';

/**
 * A route of long work. Asked for JSON Lines (`Accept: application/x-ndjson`) it answers 200 at once and then a line for each step on
 * the way (`{"progress": {…}}`), the last of which has the answer (`{"status": 201, "body": {…}}`) or what was refused
 * (`{"status": 422, "problem": {…}}`). A client that goes away stops the work; nothing of it is saved. Else it answers as any other.
 */
export function longRoute<P = Record<string, never>>(handler: LongHandler<P>) {
  return route<P>(async (given) => {
    if (!given.request.headers.get('accept')?.includes(LINES)) return handler(given, untold);
    const headers = { 'Content-Type': LINES, 'Cache-Control': 'no-store, no-transform' };
    return { body: new Response(linesOf(given, handler), { headers }) };
  });
}

function linesOf<P>(given: Route<P>, handler: LongHandler<P>): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let isGone = false;
  return new ReadableStream<Uint8Array>({
    async start(controller) {
      const write = (line: unknown) => {
        if (!isGone) controller.enqueue(encoder.encode(`${JSON.stringify(line)}\n`));
      };
      const tell: Tell = (progress) => {
        if (isGone || given.request.signal.aborted)
          throw new Refusal(409, 'stopped', 'It was stopped. Nothing was saved.');
        write({ progress });
      };
      try {
        const { status = 200, body } = await handler(given, tell);
        write({ status, body });
      } catch (error) {
        const refused = problemOf(given.request, error);
        write({ status: refused.status, problem: await refused.json() });
      }
      if (!isGone) controller.close();
    },
    cancel() {
      isGone = true;
    },
  });
}

import { certain } from '@/core/values';
import { gates } from '@/server/requests/gates';
import type { Access } from './access';
import type { Answer } from './answer';
import { idleSeconds } from './body';

/** Waits for a turn for work of its kind, and gives it back when the answer is there, or has been taken. */
export async function inGate(access: Access, work: () => Promise<Answer>): Promise<Answer> {
  if (access.work === 'probe') return work();
  const leave = await gates()[access.work].enter();
  let isStreaming = false;
  try {
    const given = await work();
    if (given.body instanceof Response && given.body.body) {
      isStreaming = true;
      return { ...given, body: leavingAtEnd(given.body, leave) };
    }
    return given;
  } finally {
    if (!isStreaming) leave();
  }
}

/**
 * An answer that is still being written keeps its turn until it ends, or nobody reads it any more. A client that takes nothing for as long as one may
 * send nothing is given up: it holds a connection, and what it was promised to see unchanged.
 */
function leavingAtEnd(response: Response, leave: () => void): Response {
  const reader = certain(response.body).getReader();
  let timer: NodeJS.Timeout | undefined;
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      clearTimeout(timer);
      try {
        const { done, value } = await reader.read();
        if (done) {
          leave();
          controller.close();
          return;
        }
        controller.enqueue(value);
        timer = setTimeout(() => {
          leave();
          controller.error(new Error('Nobody takes the rest of the file'));
          reader.cancel().catch(() => undefined);
        }, idleSeconds() * 1_000);
      } catch (error) {
        leave();
        controller.error(error);
      }
    },
    async cancel(reason) {
      clearTimeout(timer);
      leave();
      await reader.cancel(reason);
    },
  });
  return new Response(body, { status: response.status, headers: response.headers });
}

import { Refusal } from '@/server/refusal';

/** A body in pieces, as they are asked for: a reader that is slow, or goes away, holds nothing up here. */
export function streamOf(pieces: AsyncIterable<string | Uint8Array>): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  const iterator = pieces[Symbol.asyncIterator]();
  return new ReadableStream({
    async pull(controller) {
      const { done, value } = await iterator.next();
      if (done) controller.close();
      else controller.enqueue(typeof value === 'string' ? encoder.encode(value) : value);
    },
    async cancel() {
      await iterator.return?.();
    },
  });
}

interface Bounds {
  readonly least?: number;
  readonly most: number;
  readonly name: string;
}

/** A whole number of the address's query. Refuses anything else, and one that is too small or too large. */
export function wholeNumber(
  text: string | null,
  otherwise: number,
  { least = 0, most, name }: Bounds,
): number {
  if (text === null) return otherwise;
  const number = Number(text);
  if (/^\d{1,16}$/.test(text) && number >= least && number <= most) return number;
  throw new Refusal(
    422,
    'query.number',
    `“${name}” should be a whole number from ${least} to ${most}, found “${text}”.`,
  );
}

/** `before=`: the number of a run before which earlier ones are asked for. */
export function runBefore(query: URLSearchParams): string | null {
  const before = query.get('before');
  const bounds = { most: Number.MAX_SAFE_INTEGER, name: 'before' };
  return before === null ? null : String(wholeNumber(before, 0, bounds));
}
export interface Answer {
  readonly status?: number;
  readonly body?: unknown;
  /** What the browser is to keep (`Set-Cookie`). */
  readonly cookie?: string;
}

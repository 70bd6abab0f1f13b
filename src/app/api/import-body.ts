import { readInput } from '@/server/forms/input';
import { Refusal } from '@/server/refusal';
import type { ImportPlan } from '@/core/intake';
import type { ReadBody } from './body';

/** Most bytes of the line that holds the plan. */
const MOST_PLAN = 200_000;

const refused = (message: string): Refusal => new Refusal(400, 'import.body', message);

/**
 * Reads a body that is a plan and a file (`application/octet-stream`): its first line is the plan as JSON, all after that line's end is
 * the file as it is, byte by byte.
 */
export async function planAndFile(
  body: ReadBody,
): Promise<{ plan: ImportPlan; bytes: AsyncIterable<Uint8Array> }> {
  const pieces = body.bytes()[Symbol.asyncIterator]();
  let head = Buffer.alloc(0);
  let end = -1;
  while (end === -1) {
    const { value, done } = await pieces.next();
    if (done) throw refused('The body has no line with the plan and then the file. Send both.');
    head = Buffer.concat([head, value as Uint8Array]);
    end = head.indexOf(0x0a);
    if (end === -1 && head.length > MOST_PLAN)
      throw refused(`The first line, which should hold the plan, has more than ${MOST_PLAN} bytes.`);
  }
  let plan: unknown;
  try {
    plan = JSON.parse(head.subarray(0, end).toString('utf8'));
  } catch (error) {
    throw refused(`The first line should hold the plan as JSON: ${(error as Error).message}. Correct it.`);
  }
  const rest = head.subarray(end + 1);
  async function* bytes(): AsyncGenerator<Uint8Array> {
    if (rest.length > 0) yield rest;
    for (let next = await pieces.next(); !next.done; next = await pieces.next()) yield next.value;
  }
  return { plan: readInput('importPlan', plan), bytes: bytes() };
}

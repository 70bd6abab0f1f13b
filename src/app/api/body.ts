import { certain, writeCount } from '@/core/values';
import { createHash, type Hash, randomUUID } from 'node:crypto';
import { type FileHandle, open, unlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Refusal } from '@/server/refusal';
import { numberSetting } from '@/server/setting';
import { within } from '@/server/within';

/** Seconds after which a client that sends nothing is dropped. */
export const idleSeconds = (): number => numberSetting('OIKON_IDLE_SECONDS', 30);

/** Most bytes of a file that is sent. */
export const mostUpload = (): number => numberSetting('OIKON_UPLOAD_MB', 2_000, 999_999) * 1_000_000;

const tooLarge = (most: number): Refusal =>
  new Refusal(413, 'body.size', `The body is larger than ${most / 1_000_000} MB. Send it in parts.`);

/**
 * The bytes of a body as they come in, counted: it is refused as soon as it is longer than `most`, whatever it said of its length, and
 * where its client falls silent.
 */
export async function* bytesOf(request: Request, most: number): AsyncGenerator<Uint8Array> {
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooLarge(most);
  const reader = request.body?.getReader();
  if (!reader) return;
  let count = 0;
  try {
    for (;;) {
      const { done, value } = await inTime(reader.read());
      if (done) return;
      const bytes = typeof value === 'string' ? Buffer.from(value as string) : value;
      count += bytes.byteLength;
      if (count > most) throw tooLarge(most);
      yield bytes;
    }
  } finally {
    // What still comes in of a refused body isn't kept.
    void reader.cancel().catch(() => undefined);
  }
}

async function inTime<T>(reading: Promise<T>): Promise<T> {
  const seconds = idleSeconds();
  const words = `Nothing came in for ${seconds} seconds, so the rest of the body isn’t waited for. Nothing was saved; send it again.`;
  try {
    return await within(reading, seconds * 1_000, () => new Refusal(408, 'body.stalled', words));
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw new Refusal(
      400,
      'body.broken',
      'The body broke off before its end. Nothing was saved; send it again.',
    );
  }
}

/** A body that has come in whole, with a hash of it. */
export interface ReadBody {
  readonly hash: string;
  /** Its bytes, as often as they are asked for. */
  bytes(): AsyncIterable<Uint8Array>;
  text(): Promise<string>;
  /** Gives back what it takes up. */
  release(): Promise<void>;
}

/** Bodies up to so many bytes are held in memory while they are worked with; longer ones lie in a file. */
export const IN_MEMORY = 4_000_000;

/** Reads a body whole: nothing is begun, and nothing locked, before the client has sent it. */
export const readBody = (request: Request, most: number): Promise<ReadBody> =>
  most <= IN_MEMORY ? inMemory(request, most) : inFile(request, most);

const digest = (hash: Hash): string => hash.digest('base64url');

async function inMemory(request: Request, most: number): Promise<ReadBody> {
  const pieces: Uint8Array[] = [];
  const hash = createHash('sha256');
  for await (const piece of bytesOf(request, most)) {
    pieces.push(piece);
    hash.update(piece);
  }
  const whole = Buffer.concat(pieces);
  return {
    hash: digest(hash),
    async *bytes() {
      yield whole;
    },
    text: async () => decoded(whole),
    release: async () => undefined,
  };
}

/** The file has no name from the start on, so that a process that dies leaves none behind. */
async function inFile(request: Request, most: number): Promise<ReadBody> {
  const path = join(process.env.OIKON_SPOOL ?? tmpdir(), `oikon-${randomUUID()}`);
  const file = await open(path, 'wx+', 0o600);
  try {
    await unlink(path);
    const hash = createHash('sha256');
    let size = 0;
    for await (const piece of bytesOf(request, most)) {
      hash.update(piece);
      for (let from = 0; from < piece.byteLength;) {
        const { bytesWritten } = await file.write(piece, from, piece.byteLength - from, size);
        from += bytesWritten;
        size += bytesWritten;
      }
    }
    return {
      hash: digest(hash),
      bytes: () => bytesIn(file, size),
      text: async () => {
        const whole = Buffer.alloc(size);
        await file.read(whole, 0, size, 0);
        return decoded(whole);
      },
      release: () => file.close(),
    };
  } catch (error) {
    await file.close();
    throw error;
  }
}

const PIECE = 1 << 18;

async function* bytesIn(file: FileHandle, size: number): AsyncGenerator<Uint8Array> {
  for (let from = 0; from < size;) {
    const piece = Buffer.alloc(Math.min(PIECE, size - from));
    const { bytesRead } = await file.read(piece, 0, piece.length, from);
    if (bytesRead === 0) throw new Error('A body that was kept is shorter than what came in');
    from += bytesRead;
    yield piece.subarray(0, bytesRead);
  }
}

function decoded(bytes: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    throw new Refusal(400, 'body.text', 'The body isn’t UTF-8. Send it in UTF-8.');
  }
}

/** Refuses a body of another type than those that a route takes. */
export function checkType(request: Request, types: readonly string[]): void {
  const found = request.headers.get('content-type') ?? '';
  const [essence = ''] = found.split(';');
  if (types.includes(essence.trim().toLowerCase())) return;
  const expected = types.length === 1 ? types[0] : `one of ${types.join(', ')}`;
  throw new Refusal(415, 'body.type', `Expected ${expected}, found “${found}”. Set the content type.`);
}

export function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch (error) {
    throw new Refusal(
      400,
      'body.json',
      `The body isn’t JSON: ${(error as Error).message}. Correct it and send it again.`,
    );
  }
}

/** Most characters that a line of JSON Lines may have. */
const MOST_LINE = 100_000;

/** Reads JSON Lines; blank lines are passed over. Refuses a line that isn't a JSON object. */
export async function* jsonLines(body: ReadBody): AsyncGenerator<Record<string, unknown>> {
  const decoder = new TextDecoder('utf-8', { fatal: true });
  let line = 0;
  let rest = '';
  const decode = (piece?: Uint8Array): string => {
    try {
      return piece ? decoder.decode(piece, { stream: true }) : decoder.decode();
    } catch {
      throw new Refusal(400, 'body.text', `Line ${line + 1} isn’t UTF-8. Send it in UTF-8.`);
    }
  };
  const readLine = (of: string): Record<string, unknown>[] => {
    line += 1;
    return of.trim() === '' ? [] : [jsonObject(of, line)];
  };
  for await (const piece of body.bytes()) {
    const lines = (rest + decode(piece)).split('\n');
    rest = certain(lines.pop());
    if (rest.length > MOST_LINE)
      throw new Refusal(
        413,
        'body.line',
        `Line ${line + 1} is longer than ${writeCount(MOST_LINE)} characters. Put one record on each line.`,
      );
    for (const one of lines) yield* readLine(one);
  }
  yield* readLine(rest + decode());
}

function jsonObject(text: string, line: number): Record<string, unknown> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new Refusal(
      400,
      'body.json',
      `Line ${line} isn’t JSON: ${(error as Error).message}. Correct it and send all of it again.`,
    );
  }
  if (typeof value === 'object' && value !== null && !Array.isArray(value))
    return value as Record<string, unknown>;
  throw new Refusal(
    400,
    'body.record',
    `Line ${line} should hold an object of fields and values. Correct it and send all of it again.`,
  );
}

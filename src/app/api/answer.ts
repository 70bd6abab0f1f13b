import { isConnectionLost } from '@/server/database/connection';
import { log } from '@/server/log';
import { Refusal } from '@/server/refusal';
import { type LoadedWorkspace, loadWorkspace, reloadWorkspace } from '@/server/store/workspace';

/** Most bytes that a request's body may have. */
const MOST_BYTES = 4_000_000;

export interface Route<P> {
  readonly request: Request;
  readonly params: P;
  /** The address's query, one value for each key. */
  readonly query: URLSearchParams;
}

export type Handler<P> = (route: Route<P>) => Promise<{ readonly status?: number; readonly body?: unknown }>;

/**
 * Makes a route: parses, calls, answers JSON. What is refused becomes a problem detail (RFC 9457); anything unexpected is
 * logged and becomes a 500 that says nothing of its inside.
 */
export function route<P = Record<string, never>>(handler: Handler<P>) {
  return async (request: Request, context: { params: Promise<P> }): Promise<Response> => {
    try {
      checkHost(request);
      const params = await context.params;
      const query = new URL(request.url).searchParams;
      checkAddress([
        ...Object.values((params ?? {}) as Record<string, string>),
        ...query.keys(),
        ...query.values(),
      ]);
      const { status = 200, body } = await withFreshModel(request, params, () =>
        handler({ request, params, query }),
      );
      if (body instanceof Response) return body;
      return status === 204
        ? new Response(null, { status })
        : Response.json(body, { status, headers: { 'Cache-Control': 'no-store' } });
    } catch (error) {
      return problemOf(request, error);
    }
  };
}

/** What went wrong as a problem detail. */
export const problemOf = (request: Request, error: unknown): Response =>
  error instanceof Refusal ? refused(error) : failed(request, error);

/** PostgreSQL's codes for a table, a column and a schema that aren't there. */
const GONE = new Set(['42P01', '42703', '3F000']);

/**
 * Another process may have changed the model since this one read it: what only looks is done once more with the model as it is
 * now. (A save compares the workspace's epoch first, and never gets here.)
 */
async function withFreshModel<T>(request: Request, params: unknown, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    const { code, parent } = error as { code?: string; parent?: { code?: string } };
    const { w } = (params ?? {}) as { w?: string };
    if (request.method !== 'GET' || w === undefined || !GONE.has(parent?.code ?? code ?? '')) throw error;
    await reloadWorkspace(w);
    return work();
  }
}

/** Only names of this machine are answered: a page elsewhere can't reach Oikon by pointing a name of its own at it. */
function checkHost(request: Request): void {
  const { hostname } = new URL(`http://${request.headers.get('host') ?? ''}`);
  if (['localhost', '127.0.0.1', '[::1]'].includes(hostname)) return;
  throw new Refusal(
    400,
    'host.unknown',
    'Oikon answers on this machine only. Open it at http://127.0.0.1 with its port.',
  );
}

/** PostgreSQL's texts can't hold a NUL character, so nothing there has one in its name. */
function checkAddress(parts: readonly string[]): void {
  if (!parts.some((part) => part.includes('\u0000'))) return;
  throw new Refusal(400, 'address.character', 'The address holds a NUL character. Remove it.');
}

const TITLES: Record<number, string> = {
  400: 'The request can’t be read',
  401: 'Who acts isn’t known',
  404: 'Not found',
  405: 'Not possible here',
  409: 'It doesn’t fit what is there now',
  413: 'The request is too large',
  415: 'Not JSON',
  422: 'What was sent can’t be accepted',
  503: 'Busy',
};

function problem(status: number, body: Record<string, unknown>): Response {
  const headers = { 'Content-Type': 'application/problem+json', 'Cache-Control': 'no-store' };
  return new Response(
    JSON.stringify({
      type: `urn:oikon:problem:${body.code as string}`,
      title: TITLES[status] ?? 'Problem',
      status,
      ...body,
    }),
    { status, headers },
  );
}

const refused = ({ status, code, message, parts, data }: Refusal): Response =>
  problem(status, {
    code,
    detail: message,
    ...(parts.length > 0 ? { errors: parts } : {}),
    ...(Object.keys(data).length > 0 ? { data } : {}),
  });

function failed(request: Request, error: unknown): Response {
  if (isConnectionLost(error)) {
    log.error({ err: error, url: request.url }, 'the database is away');
    return problem(503, {
      code: 'database.away',
      detail: 'The database can’t be reached right now. Nothing was saved; try again in a moment.',
    });
  }
  log.error({ err: error, url: request.url, method: request.method }, 'a request failed');
  return problem(500, {
    title: 'Something went wrong',
    code: 'internal',
    detail: 'Oikon failed at this request; nothing was saved. The server’s log says more.',
  });
}

/** Reads a JSON body. Refuses another content type, broken JSON and bodies that are too large. */
export async function jsonBody(request: Request, most = MOST_BYTES): Promise<unknown> {
  const text = await jsonText(request, most);
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

/** The same as text, for those who read it themselves. */
export async function jsonText(request: Request, most: number): Promise<string> {
  const type = request.headers.get('content-type') ?? '';
  if (!/^application\/json\b/.test(type))
    throw new Refusal(415, 'body.type', `Expected application/json, found “${type}”. Set the content type.`);
  const tooLarge = new Refusal(
    413,
    'body.size',
    `The body is larger than ${most / 1_000_000} MB. Send it in parts.`,
  );
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooLarge;
  const text = await request.text();
  if (text.length > most) throw tooLarge;
  return text;
}

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

/** Most characters that a line of JSON Lines may have. */
const MOST_LINE = 100_000;

/** Reads a body of JSON Lines as it comes in; blank lines are passed over. Refuses a line that isn't a JSON object. */
export async function* jsonLines(request: Request): AsyncGenerator<Record<string, unknown>> {
  const type = request.headers.get('content-type') ?? '';
  if (!/^application\/(x-ndjson|jsonl)\b/.test(type))
    throw new Refusal(
      415,
      'body.type',
      `Expected application/x-ndjson, found “${type}”. Set the content type.`,
    );
  if (!request.body) return;
  const text = request.body.pipeThrough(new TextDecoderStream('utf-8', { fatal: true }) as never);
  let line = 0;
  let rest = '';
  const readLine = (of: string): Record<string, unknown>[] => {
    line += 1;
    if (of.trim() === '') return [];
    return [jsonObject(of, line)];
  };
  try {
    for await (const piece of text as unknown as AsyncIterable<string>) {
      const lines = (rest + piece).split('\n');
      rest = lines.pop()!;
      if (rest.length > MOST_LINE)
        throw new Refusal(
          413,
          'body.line',
          `Line ${line + 1} is longer than ${MOST_LINE.toLocaleString('en')} characters. Put one record on each line.`,
        );
      for (const one of lines) yield* readLine(one);
    }
  } catch (error) {
    if (error instanceof TypeError)
      throw new Refusal(400, 'body.text', `Line ${line + 1} isn’t UTF-8. Send it in UTF-8.`);
    throw error;
  }
  yield* readLine(rest);
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

/** A whole number of the address's query. Refuses anything else, and one that is too large. */
export function wholeNumber(text: string | null, otherwise: number, most: number, name: string): number {
  if (text === null) return otherwise;
  const number = Number(text);
  if (/^\d{1,16}$/.test(text) && number <= most) return number;
  throw new Refusal(
    422,
    'query.number',
    `“${name}” should be a whole number up to ${most}, found “${text}”.`,
  );
}

/** `before=`: the number of a run before which earlier ones are asked for. */
export function runBefore(query: URLSearchParams): string | null {
  const before = query.get('before');
  return before === null ? null : String(wholeNumber(before, 0, Number.MAX_SAFE_INTEGER, 'before'));
}

/** Who acts: the id in the header `Oikon-Person`. The actions check it against the workspace's people. */
export const personOf = (request: Request): string => request.headers.get('oikon-person') ?? '';

/** The same of a request that saves nothing, where nobody need be named. */
export const askerOf = (request: Request): string | null => request.headers.get('oikon-person');

export const workspaceOf = (params: { w: string }): Promise<LoadedWorkspace> => loadWorkspace(params.w);

import { certain } from '@/core/values';
import type { Progress } from '@/core/api';
import { ApiProblem, type Asked, problemOf, serverAway } from './problem';
import { forgetAtHand, taken } from './at-hand';
import { formHeader } from './form';
import { openPage } from './open-page';
import { sendOnce } from './send-once';

export { ApiProblem, problemOf, serverAway };

/** The key of the workspace that the page is about, from its address (`/w/wrenfield/rules`). */
const pageWorkspace = (): string =>
  typeof location === 'undefined' ? '' : (/^\/w\/([^/]+)/.exec(location.pathname)?.[1] ?? '');

/** The address of something in the workspace that the page is about. Only a browser knows it. */
export const apiPath = (path: string): string => `/api/v1/workspaces/${pageWorkspace()}${path}`;

export interface Call {
  readonly method?: 'GET' | 'POST' | 'PATCH' | 'DELETE';
  readonly body?: unknown;
  readonly person?: string | null;
  /** What is answered needn't hold the record that was saved. */
  readonly isBrief?: boolean;
}

/** Calls the JSON API of the page's workspace. Throws an `ApiProblem` for anything but success, also when the server is away. */
export const callApi = <T>(path: string, call: Call = {}): Promise<T> => callServer<T>(apiPath(path), call);

/** Sends a text of JSON that is there already, such as a file that was chosen. */
export const callText = <T>(address: string, text: string, person: string | null): Promise<T> =>
  sendOnce((key) =>
    send<T>(address, { method: 'POST', headers: { ...headersOf(text, person), ...key }, body: text }),
  );

/** The same for any address of this server. */
export function callServer<T>(
  address: string,
  { method = 'GET', body, person, isBrief }: Call = {},
): Promise<T> {
  const headers = { ...headersOf(body, person), ...(isBrief ? { Prefer: 'return=minimal' } : {}) };
  if (method === 'GET') return atHandOr(address, () => send<T>(address, { method, headers }));
  const content = body === undefined ? {} : { body: JSON.stringify(body) };
  return sendOnce((key) => send<T>(address, { method, headers: { ...headers, ...key }, ...content }));
}

/** What came with the page, or else what is asked for now. */
async function atHandOr<T>(address: string, ask: () => Promise<T>): Promise<T> {
  const answer = (await taken(address)) ?? null;
  return answer === null ? ask() : (answer as T);
}

const headersOf = (body: unknown, person: string | null | undefined): Record<string, string> => ({
  ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
  ...(person ? { 'Oikon-Person': person } : {}),
  ...formHeader(),
});

async function send<T>(address: string, request: RequestInit): Promise<T> {
  // Whoever saves is named; what only asks leaves everything as it is.
  if (request.method !== 'GET' && new Headers(request.headers).has('Oikon-Person')) forgetAtHand();
  let response: Response;
  try {
    response = await fetch(address, request);
  } catch {
    throw serverAway();
  }
  if (response.status === 204) return undefined as T;
  const answer = (await response.json().catch(() => null)) as unknown;
  if (response.ok) return answer as T;
  const refused = problemOf(response.status, answer, askedOf(address, request.body));
  if (request.method === 'GET') {
    if (refused.code === 'session.none') leadTo('/sign-in');
    if (refused.code === 'session.second') leadTo('/second-step');
  }
  throw refused;
}

/** What was asked of a route of the page's workspace, where that was JSON. */
function askedOf(address: string, body: RequestInit['body']): Asked | null {
  const within = apiPath('/');
  if (!address.startsWith(within) || typeof body !== 'string') return null;
  return { route: address.slice(within.length), body: JSON.parse(body) as unknown };
}

/** The session has ended, or isn't enough any more: one shows who one is and comes back. What is being written stays, with a question (`beforeunload`). */
const leadTo = (page: string): void =>
  openPage(`${page}?to=${encodeURIComponent(location.pathname + location.search)}`);

/** The answer to long work (`application/x-ndjson`): a line for each step on the way, the last with what came of it. */
export class LongAnswer<T> {
  #read = 0;
  #rest = '';
  #last: { readonly status: number; readonly body?: T; readonly problem?: unknown } | null = null;

  constructor(private readonly onProgress: (progress: Progress) => void) {}

  /** Takes in all that has come so far; what was taken in before isn't told again. */
  take(text: string): void {
    const lines = (this.#rest + text.slice(this.#read)).split('\n');
    this.#read = text.length;
    this.#rest = lines.pop() ?? '';
    for (const line of lines) {
      if (line === '') continue;
      const read = JSON.parse(line) as { progress?: Progress; status: number; body?: T; problem?: unknown };
      if (read.progress) this.onProgress(read.progress);
      else this.#last = read;
    }
  }

  /** What came of it. Throws what was refused, also where the answer broke off. */
  end(): T {
    if (!this.#last) throw serverAway();
    if (this.#last.problem !== undefined) throw problemOf(this.#last.status, this.#last.problem);
    return this.#last.body as T;
  }
}

interface LongCall extends Pick<Call, 'body' | 'person'> {
  readonly signal?: AbortSignal;
}

/** Calls long work of the page's workspace, and tells how far it has come. Aborting it leaves nothing behind. */
export const callLong = <T>(
  path: string,
  call: LongCall,
  onProgress: (progress: Progress) => void,
): Promise<T> => sendOnce((key) => sendLong<T>(path, call, key, onProgress));

async function sendLong<T>(
  path: string,
  { body, person, signal }: LongCall,
  key: Readonly<Record<string, string>>,
  onProgress: (progress: Progress) => void,
): Promise<T> {
  const headers = { Accept: LINES, ...headersOf(body, person), ...key };
  const response = await fetch(apiPath(path), {
    ...{ method: 'POST', headers, body: JSON.stringify(body) },
    ...(signal ? { signal } : {}),
  }).catch((error: unknown) => {
    throw signal?.aborted ? (error as Error) : serverAway();
  });
  if (!response.ok) throw problemOf(response.status, await response.json().catch(() => null));
  const answer = new LongAnswer<T>(onProgress);
  let text = '';
  const reader = certain(response.body).pipeThrough(new TextDecoderStream()).getReader();
  for (let next = await reader.read(); !next.done; next = await reader.read())
    answer.take((text += next.value));
  return answer.end();
}

/** What the page's workspace answers as a file. */
export async function callFile(path: string, body: unknown): Promise<Blob> {
  const response = await fetch(apiPath(path), {
    ...{ method: 'POST', headers: headersOf(body, null), body: JSON.stringify(body) },
  }).catch(() => {
    throw serverAway();
  });
  if (!response.ok) throw problemOf(response.status, await response.json().catch(() => null));
  return response.blob();
}

export const LINES = 'application/x-ndjson';

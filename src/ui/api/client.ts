import type { Problem } from '@/core/values';

/** What the API refused, from its problem details (RFC 9457). */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly title: string,
    detail: string,
    readonly errors: readonly (Problem & { readonly index?: number })[],
  ) {
    super(detail);
    this.name = 'ApiProblem';
  }
}

/** The key of the workspace that the page is about, from its address (`/w/wrenfield/rules`). */
const pageWorkspace = (): string =>
  typeof location === 'undefined' ? '' : (/^\/w\/([^/]+)/.exec(location.pathname)?.[1] ?? '');

/** The address of something in the workspace that the page is about. Only a browser knows it. */
export const apiPath = (path: string): string => `/api/v1/workspaces/${pageWorkspace()}${path}`;

export interface Call {
  readonly method?: 'GET' | 'POST' | 'PATCH' | 'DELETE';
  readonly body?: unknown;
  readonly person?: string | null;
}

/** Calls the JSON API of the page's workspace. Throws an `ApiProblem` for anything but success, also when the server is away. */
export const callApi = <T>(path: string, call: Call = {}): Promise<T> => callServer<T>(apiPath(path), call);

/** Sends a text of JSON that is there already, such as a file that was chosen. */
export const callText = <T>(address: string, text: string): Promise<T> =>
  send<T>(address, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: text });

/** The same for any address of this server. */
export function callServer<T>(address: string, { method = 'GET', body, person }: Call = {}): Promise<T> {
  const headers: Record<string, string> = {};
  if (body !== undefined) headers['Content-Type'] = 'application/json';
  if (person) headers['Oikon-Person'] = person;
  return send<T>(address, {
    method,
    headers,
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
}

async function send<T>(address: string, request: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(address, request);
  } catch {
    throw serverAway();
  }
  if (response.status === 204) return undefined as T;
  const answer = (await response.json().catch(() => null)) as unknown;
  if (response.ok) return answer as T;
  throw problemOf(response.status, answer);
}

export const serverAway = (): ApiProblem =>
  new ApiProblem(
    0,
    'server.away',
    'Oikon can’t be reached',
    'The server doesn’t answer. Check that it runs; what you typed is still here.',
    [],
  );

/** What an answer that isn't success says, from its problem details. */
export function problemOf(status: number, answer: unknown): ApiProblem {
  const problem = (answer ?? {}) as Partial<{
    code: string;
    title: string;
    detail: string;
    errors: Problem[];
  }>;
  return new ApiProblem(
    status,
    problem.code ?? 'internal',
    problem.title ?? 'Something went wrong',
    problem.detail ?? 'Try again.',
    problem.errors ?? [],
  );
}

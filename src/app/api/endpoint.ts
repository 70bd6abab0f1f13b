import { certain } from '@/core/values';
import { createHash } from 'node:crypto';
import { type Tell, untold } from '@/server/progress';
import { Refusal } from '@/server/refusal';
import {
  AnsweredBefore,
  answeredBefore,
  answerOfOther,
  keepAnswer,
  outstanding,
} from '@/server/store/session/answered';
import { refusalSeen } from '@/server/queries/records/refusal-seen';
import { seenWorkspace } from '@/server/queries/seen-workspace';
import { inRequest, type RequestKey } from '@/server/store/session/request-context';
import { NoLongerSo } from '@/server/sign-in/proof';
import { gates } from '@/server/requests/gates';
import { checkHost } from '@/server/requests/front';
import { isOfOtherModel } from '@/server/store/session/conflicts';
import { type LoadedWorkspace, loadWorkspace, reloadWorkspace } from '@/server/store/session/workspace';
import { type Access, ACCESS, type Method, type Path } from './access';
import { asProved } from './as-proved';
import { type Asking, askingBy, checkSite } from './asking';
import { checkType, parsedJson, type ReadBody, readBody } from './body';
import { type CarryOut, asksForLines, linesOf } from './long-answer';
import { formOf } from './form-of';
import { inGate } from './in-gate';
import { problem, problemOf } from './problem';
import { noteTakenOut } from './taken-out';
import type { Answer } from './answer';
import type { AnswerOf, RouteAnswers } from './answers';

export interface Route<P> {
  readonly request: Request;
  readonly params: P;
  /** The address's query, one value for each key. */
  readonly query: URLSearchParams;
  /** The id of who acts; empty where nobody is named. */
  readonly person: string;
  /** Who is signed in; `null` in the demo, and for strangers. */
  readonly signedIn: Asking['signedIn'];
  readonly client: Asking['client'];
  /** What they see of the workspace, where that is only a part. */
  readonly sight: Asking['sight'];
  /** The body that came in; parsed where it is asked for as JSON. */
  readonly body: ReadBody;
  json(): Promise<unknown>;
  /** Tells how far long work has come, where it was asked for by lines. */
  readonly tell: Tell;
}

/** What a handler gives: nothing, or a file, or a body as the table of answers says. */
type Given<T> = [T] extends ['nothing']
  ? { readonly status: 204; readonly cookie?: string }
  : {
      readonly status?: number;
      readonly cookie?: string;
      readonly body: [T] extends ['file'] ? Response : T;
    };

export type Handler<P, T> = (route: Route<P>) => Promise<Given<T>>;

type Names<P extends string> = P extends `${string}{${infer N}}${infer Rest}` ? N | Names<Rest> : never;
/** The parts of an address that it names in braces. */
export type ParamsOf<P extends string> = { readonly [N in Names<P>]: string };

type Handlers<P extends Path> = {
  readonly [M in Method & keyof RouteAnswers[P]]: Handler<ParamsOf<P>, AnswerOf<P, M>>;
};

type NextHandler<P> = (request: Request, context: { params: Promise<P> }) => Promise<Response>;

const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const satisfies readonly Method[];

/**
 * All methods of a route: parses, calls, answers JSON. Who may call it and what it takes stands in `ACCESS`; what isn't told there is
 * refused. What is refused becomes a problem detail (RFC 9457); anything unexpected is logged and becomes a 500 that says nothing of its
 * inside.
 */
export function endpoint<P extends Path>(
  path: P,
  handlers: Handlers<P>,
): Record<Method, NextHandler<ParamsOf<P>>> {
  const given: Partial<Record<Method, AnyHandler<ParamsOf<P>>>> = handlers;
  const known = METHODS.filter((method) => given[method]);
  const handlerOf = (method: Method): NextHandler<ParamsOf<P>> => {
    const handler = given[method];
    if (!handler) return (request) => Promise.resolve(wrongMethod(request, method, known));
    return (request, context) => answer(request, context, { path, method, handler });
  };
  return Object.fromEntries(METHODS.map((method) => [method, handlerOf(method)])) as Record<
    Method,
    NextHandler<ParamsOf<P>>
  >;
}

const wrongMethod = (request: Request, method: Method, known: readonly Method[]): Response => {
  const detail = `${method} isn’t possible here. Possible: ${known.join(', ')}.`;
  const response = problem(405, { code: 'method.unknown', detail, data: { methods: known } });
  response.headers.set('Allow', known.join(', '));
  return response;
};

type AnyHandler<P> = (route: Route<P>) => Promise<Answer | Response>;

interface Called<P> {
  readonly path: Path;
  readonly method: Method;
  readonly handler: AnyHandler<P>;
}

/** Answers a call of a route and a method, by whoever it is that `asks`. */
export async function answer<P>(
  request: Request,
  context: { params: Promise<P> },
  { path, method, handler }: Called<P>,
  asks = askingBy,
): Promise<Response> {
  // What is told whatever the answer is: what the browser kept before isn't good for long, and how much more may be asked.
  const told: Record<string, string> = {};
  try {
    checkHost(request.headers.get('host'), path === '/health');
    const access = (ACCESS[path] as Partial<Record<Method, Access>> | undefined)?.[method];
    if (!access) throw closed();
    const params = await context.params;
    const query = new URL(request.url).searchParams;
    checkAddress(access, (params ?? {}) as Record<string, string>, query);
    checkSite(request, access);
    const { w } = (params ?? {}) as { w?: string };
    const form = formOf(request);
    const first = await asks(request, access, w);
    const { person, client } = first;
    Object.assign(told, first.tells);
    const body = await bodyOf(request, access);
    if (access.takesOut !== undefined) await noteTakenOut(access.takesOut, params ?? {}, { person, client });
    const key = await keyOf(request, { access, method, person, hash: body.hash, w }).catch(
      async (error: unknown) => {
        await body.release();
        throw error;
      },
    );
    const json = async () => parsedJson(await body.text());
    const asked = { request, params, query, body, json };
    const carriedOut = (asking: Asking, tell: Tell) =>
      inRequest({ key, hasSaved: false, form, proof: asking.proof }, () => {
        const work = () => handler({ ...asked, ...asking, tell });
        return once(key, () => inGate(access, () => withFreshModel(access, w, work))).catch(
          (error: unknown) => {
            if (error instanceof NoLongerSo) throw error;
            const { sight } = asking;
            return problemOf(request, sight && error instanceof Refusal ? refusalSeen(error, sight) : error);
          },
        );
      });
    const carryOut: CarryOut = async (tell) => {
      const now = async () => {
        const asking = await asks(request, access, w, true);
        Object.assign(told, asking.tells);
        return asking;
      };
      try {
        return await asProved(first, now, (asking) => carriedOut(asking, tell));
      } catch (error) {
        return problemOf(request, error);
      } finally {
        await body.release();
      }
    };
    if (access.tells && asksForLines(request)) return keeping(linesOf(request, carryOut), told);
    return responseOf(await carryOut(untold), told);
  } catch (error) {
    return keeping(problemOf(request, error), told);
  }
}

function keeping(response: Response, told: Readonly<Record<string, string>>): Response {
  for (const [name, value] of Object.entries(told))
    if (!response.headers.has(name)) response.headers.set(name, value);
  return response;
}

/** Carries a write with a key out once: asked for again it is answered as the first time. */
async function once(key: RequestKey | null, work: () => Promise<Answer>): Promise<Answer> {
  if (!key) return work();
  return outstanding(key, async () => {
    const before = await answeredBefore(key);
    if (before) return before;
    try {
      const given = await work();
      await keepAnswer(key, given);
      return given;
    } catch (error) {
      if (error instanceof AnsweredBefore) return answerOfOther(key);
      throw error;
    }
  });
}

function responseOf(given: Answer | Response, told: Readonly<Record<string, string>>): Response {
  if (given instanceof Response) return keeping(given, told);
  const { status = 200, body, cookie } = given;
  if (body instanceof Response) return keeping(body, told);
  const headers: Record<string, string> =
    cookie === undefined ? { ...told } : { ...told, 'Set-Cookie': cookie };
  if (status === 204) return new Response(null, { status, headers });
  return Response.json(body, { status, headers: { 'Cache-Control': 'no-store', ...headers } });
}

const closed = (): Refusal =>
  new Refusal(403, 'route.closed', 'Nobody may call this: it isn’t in the table of who may what.');

/** What a client sends has come in whole before its turn comes: a slow one holds nothing up. */
async function bodyOf(request: Request, { body }: Access): Promise<ReadBody> {
  if (!body) return EMPTY;
  checkType(request, body.types);
  const leave = await gates().upload.enter();
  try {
    return await readBody(request, body.most());
  } finally {
    leave();
  }
}

const EMPTY: ReadBody = {
  hash: '',
  async *bytes() {},
  text: () => Promise.resolve(''),
  release: () => Promise.resolve(),
};

/** Most times that something which only looks is begun anew, because the model changed beneath it. */
const MOST_LOOKS = 6;

/**
 * The model may have changed since this process read it, or while something was looked at: what only looks is done again with the model as it is
 * then. (A save compares the workspace's epoch first, and never gets here.)
 */
async function withFreshModel<T>(
  { saves }: Access,
  w: string | undefined,
  work: () => Promise<T>,
): Promise<T> {
  if (saves || w === undefined) return work();
  for (let looked = 1; ; looked += 1) {
    const { epoch } = await loadWorkspace(w);
    try {
      return await work();
    } catch (error) {
      if (!isOfOtherModel(error) || (await reloadWorkspace(w)).epoch === epoch) throw error;
      if (looked === MOST_LOOKS)
        throw new Refusal(
          503,
          'change.busy',
          'The model or the rules are being changed again and again right now. Nothing was done; try again in a moment.',
        );
    }
  }
}

/** Refuses parameters that the route doesn't know, and NUL, which PostgreSQL's texts can't hold. */
function checkAddress(
  { query: known = [] }: Access,
  params: Record<string, string>,
  query: URLSearchParams,
): void {
  const parts = [...Object.values(params), ...query.keys(), ...query.values()];
  if (parts.some((part) => part.includes('\u0000')))
    throw new Refusal(400, 'address.character', 'The address holds a NUL character. Remove it.');
  for (const name of query.keys()) {
    if (known.some((one) => (one.endsWith('.') ? name.startsWith(one) : name === one))) continue;
    const words = known.map((one) => (one.endsWith('.') ? `${one}…` : one)).join(', ');
    const message = `The address has a parameter “${name}”, which isn’t known here. ${words === '' ? 'There are none.' : `Known: ${words}.`}`;
    throw new Refusal(422, 'query.unknown', message);
  }
}

/** The draft's header field “Idempotency-Key”: a string of RFC 8941 in quotes; without them it is taken as well. */
async function keyOf(
  request: Request,
  given: {
    readonly access: Access;
    readonly method: Method;
    readonly person: string;
    readonly hash: string;
    readonly w: string | undefined;
  },
): Promise<RequestKey | null> {
  const header = request.headers.get('idempotency-key');
  const { access, w } = given;
  if (header === null || !access.saves) return null;
  const [, quoted, bare] =
    /^(?:"([\x20\x21\x23-\x5b\x5d-\x7e]{1,200})"|([A-Za-z0-9_.:-]{1,200}))$/.exec(header) ?? [];
  const key = quoted ?? bare;
  if (key === undefined) {
    const message = `The header Idempotency-Key should be up to 200 characters in quotes, found ${header.slice(0, 80)}. Use a random key for each thing that is saved.`;
    throw new Refusal(400, 'key.form', message);
  }
  const { pathname, search } = new URL(request.url);
  const fingerprint = createHash('sha256')
    .update([given.method, pathname, search, given.person, given.hash].join('\n'))
    .digest('base64url');
  const schema =
    access.who === 'installation' || w === undefined ? 'public' : (await loadWorkspace(certain(w))).schema;
  return { key, person: given.person, fingerprint, schema };
}

export const workspaceOf = (params: { w: string }): Promise<LoadedWorkspace> => loadWorkspace(params.w);

/** The workspace as whoever asks sees it: all, or a part. */
export async function workspaceSeen({
  params,
  sight,
}: Pick<Route<{ w: string }>, 'params' | 'sight'>): Promise<LoadedWorkspace> {
  const whole = await workspaceOf(params);
  return sight ? seenWorkspace(whole, sight) : whole;
}

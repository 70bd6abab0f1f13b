import { type Sight, sightOf } from '@/core/model';
import { type Right, RIGHTS, whyMayNot } from '@/core/api';
import { checkPerson, checkSomebody } from '@/server/queries/workspaces/people';
import { Refusal } from '@/server/refusal';
import { CLIENT_HEADER, PAGE_HEADER } from '@/server/requests/front';
import { countRequest } from '@/server/requests/rates';
import { settings } from '@/server/settings';
import { rolesOf, type Standing, standingAs, standingIn } from '@/server/sign-in/roles';
import { checkSecond } from '@/server/sign-in/second-step';
import type { Proving } from '@/server/sign-in/proof';
import { type Client, renewSession, sessionBy, type SignedIn } from '@/server/sign-in/sessions';
import { type ByToken, isToken, tokenAsKept } from '@/server/sign-in/tokens';
import { loadWorkspace } from '@/server/store/session/workspace';
import { PERSON_COOKIE } from '@/ui/api/person-cookie';
import { SEE_AS_COOKIE } from '@/ui/api/see-as-cookie';
import type { Access } from './access';
import { keepKnown, knownBy } from './known';

/** Who asks: in the demo whoever the header `Oikon-Person` names, elsewhere who is signed in. */
export interface Asking {
  /** The id of who acts; empty where nobody is named. */
  readonly person: string;
  /** `null` in the demo, and where nobody is signed in. */
  readonly signedIn: SignedIn | null;
  readonly client: Client;
  /** What they see of the workspace that the address names, where that is only a part; else `null`. */
  readonly sight: Sight | null;
  /** Fields of the answer, whatever that is: what the browser is to keep of its session from now on, where that is another; and how much more may be asked. */
  readonly tells: Readonly<Record<string, string>>;
  /** What is to be found true before anything is answered, where who asks is known of a moment ago. */
  readonly proof: Proving | null;
}

const isSecure = (): boolean => settings().origin?.startsWith('https:') === true;

/** Only over https may a cookie say that it is this host's alone. */
const cookieNamed = (name: string): string => (isSecure() ? `__Host-${name}` : name);
export const sessionCookie = (): string => cookieNamed('oikon');

/** A cookie that no script reads, and that goes away with the browser, or now; how long what it names is good is the server's to say. */
const kept = (name: string, value: string | null): string =>
  `${name}=${value ?? ''}; Path=/; HttpOnly; SameSite=Lax${isSecure() ? '; Secure' : ''}${value === null ? '; Max-Age=0' : ''}`;

/** The cookie that keeps a session, or ends with it. */
export const keptCookie = (secret: string | null): string => kept(sessionCookie(), secret);
/** The cookie that keeps a visit to the company's sign-in until one is back. */
export const visitCookie = (state: string | null): string => kept(cookieNamed('oikon-visit'), state);

const SECRET = /^[A-Za-z0-9_-]{43}$/;

/** What the browser keeps under a name; `null` where there is nothing, or more than one. */
function keptBy(cookies: string, name: string): string | null {
  const [one, ...others] = cookies
    .split(';')
    .map((cookie) => cookie.trim())
    .filter((cookie) => cookie.startsWith(`${name}=`));
  const secret = others.length === 0 ? one?.slice(name.length + 1) : undefined;
  return secret !== undefined && SECRET.test(secret) ? secret : null;
}

const demoPersonOf = (request: Request): string | null =>
  new RegExp(`(?:^|; )${PERSON_COOKIE}=([0-9a-f-]{36})(?:;|$)`).exec(cookiesOf(request))?.[1] ?? null;

const cookiesOf = ({ headers }: Request): string => headers.get('cookie') ?? '';
export const visitOf = (request: Request): string | null =>
  keptBy(cookiesOf(request), cookieNamed('oikon-visit'));

/** The token that a program sends (RFC 6750); empty where it is none, `null` where none is sent. */
function bearerOf(request: Request): string | null {
  const header = request.headers.get('authorization');
  if (header === null) return null;
  const [, text = ''] = /^Bearer (.+)$/i.exec(header) ?? [];
  return isToken(text) ? text : '';
}

const clientOf = ({ headers }: Request): Client => ({
  address: headers.get(CLIENT_HEADER) ?? 'unknown',
  agent: headers.get('user-agent') ?? '',
});

/** Who asks. Who isn't known is asked for of the database; `anew`: as well who was known a moment ago. */
export async function askingBy(
  request: Request,
  access: Access,
  w: string | undefined,
  anew = false,
): Promise<Asking> {
  const client = clientOf(request);
  if (settings().isDemo) return inDemo(request, access, w, client);
  const bearer = bearerOf(request);
  const cookies = cookiesOf(request);
  const secret = bearer ?? keptBy(cookies, sessionCookie());
  const mayKnow = access.provesLate && secret !== null && w !== undefined && !cookies.includes(SEE_AS_COOKIE);
  const known = mayKnow && !anew ? knownBy(secret, w) : undefined;
  if (known?.access === access && isNamed(request, known.person)) {
    const { person, signedIn, sight, proof } = known;
    const tells = await counted(signedIn, client.address);
    return { person, signedIn, sight, client, tells, proof: { ...proof, holds: false } };
  }
  const token = bearer === null ? null : await tokenAsKept(bearer, w ?? null);
  const session = bearer === null && secret !== null ? await sessionBy(secret, w ?? null) : null;
  const found = session ?? token;
  const signedIn = found?.signedIn ?? null;
  // Asked for anew, it is the request that was counted before.
  const tells: Record<string, string> =
    access.who === 'probe' || anew ? {} : { ...(await counted(signedIn, client.address)) };
  const asking = await askingOf(request, access, w, signedIn);
  // Only where nothing was refused: what the browser is to keep goes with the answer. A page's own questions have it keep nothing.
  if (session?.isChanged && secret !== null && !request.headers.has(PAGE_HEADER)) {
    const renewed = await renewSession(secret);
    if (renewed !== null) tells['Set-Cookie'] = keptCookie(renewed);
  }
  if (mayKnow && found && !session?.isChanged && !session?.isEarlier) {
    const proof = { by: token ? 'token' : 'session', id: found.id, since: found.since } as const;
    keepKnown(secret, w, { ...asking, access, proof }, found.left);
  }
  return { ...asking, client, tells, proof: null };
}

/** Whether a request names nobody else as who acts. */
function isNamed(request: Request, person: string): boolean {
  const named = request.headers.get('oikon-person');
  return named === null || named === '' || named === person;
}

type Judged = Pick<Asking, 'person' | 'signedIn' | 'sight'>;

/**
 * What somebody asks for who is signed in so. Refuses who isn't where one must be, who names somebody else than themselves, and a workspace in which
 * one doesn't take part: to them there is none.
 */
async function askingOf(
  request: Request,
  access: Access,
  w: string | undefined,
  signedIn: SignedIn | ByToken | null,
): Promise<Judged> {
  const { who } = access;
  if (who === 'stranger' || who === 'probe') return { person: signedIn?.person ?? '', signedIn, sight: null };
  if (!signedIn)
    throw new Refusal(401, 'session.none', 'You aren’t signed in, or no longer. Sign in, and try again.');
  const token = 'workspaces' in signedIn ? signedIn : null;
  const { person, isOperator } = signedIn;
  if (!isNamed(request, person))
    throw new Refusal(
      403,
      'person.other',
      'You act as yourself: leave Oikon-Person out, or send your own id.',
    );
  let seen: Standing | null = null;
  if (w !== undefined) {
    const { standing } = signedIn;
    if (standing === null || (token && !token.workspaces.has(w)))
      throw new Refusal(404, 'workspace.unknown', `There is no workspace “${w}”. Check the address.`);
    checkSecond(standing, signedIn.factors);
    seen = await seenAs(request, access, w, standing);
    await checkRight(access, w, seen);
    if (token && access.right !== null) checkGiven(token, access.right);
  }
  const sight = checkSight(access, seen, person);
  if (who === 'account' && token)
    throw new Refusal(403, 'right.missing', 'A token sees to no account: sign in yourself for that.');
  if ((who === 'installation' || who === 'operator') && !isOperator)
    throw new Refusal(
      403,
      'right.missing',
      'Only an operator of this installation may do that. Ask one of them.',
    );
  return { person, signedIn, sight };
}

/** Who asks in the demo: nobody signs in, who acts is named, and who only looks is who the browser remembers, or nobody. */
async function inDemo(
  request: Request,
  access: Access,
  w: string | undefined,
  client: Client,
): Promise<Asking> {
  const { who } = access;
  const named = request.headers.get('oikon-person') ?? '';
  await checkWho(who, named, w);
  const looking = named || (who === 'anyone' ? (demoPersonOf(request) ?? '') : '');
  const own = w !== undefined && looking !== '' ? await standingIn(w, looking) : null;
  const standing = await seenAs(request, access, w, own);
  if (w !== undefined && (standing !== null || who === 'person')) await checkRight(access, w, standing);
  const sight = checkSight(access, standing, looking);
  return { person: looking, signedIn: null, client, sight, tells: {}, proof: null };
}

/** Counts a request of who is signed in, or of an address. */
const counted = (signedIn: SignedIn | null, address: string): Promise<Readonly<Record<string, string>>> => {
  if (!signedIn) return countRequest('stranger', address);
  return signedIn.way === 'token'
    ? countRequest('token', signedIn.handle)
    : countRequest('person', signedIn.person);
};

const SEEN_AS = new RegExp(`(?:^|; )${SEE_AS_COOKIE}=([a-z0-9-]{1,60}):([A-Za-z0-9-]{1,40})(?:;|$)`);

/**
 * What somebody may as they look at a workspace: whoever administers it may look at it as one of its roles does (`oikon-see-as`), which shows less, and
 * saves nothing.
 */
async function seenAs(
  request: Request,
  access: Access,
  w: string | undefined,
  own: Standing | null,
): Promise<Standing | null> {
  const [, where, role] = SEEN_AS.exec(cookiesOf(request)) ?? [];
  if (w === undefined || where !== w || role === undefined || !own?.rights.has('administer')) return own;
  const seen = await standingAs(w, role);
  if (!seen) return own;
  if (access.saves)
    throw new Refusal(
      403,
      'sight.preview',
      `You look at this workspace as ${seen.names.join()} does, and nothing is saved meanwhile. See all again first.`,
    );
  return seen;
}

/** Refuses what somebody's roles don't allow, and says who may. */
async function checkRight(
  { right, asks }: Pick<Access, 'right' | 'asks'>,
  w: string,
  standing: Standing | null,
): Promise<void> {
  if (right === null || standing?.rights.has(right)) return;
  const why = whyMayNot(await rolesOf(w), standing?.names ?? [], right);
  if (asks !== undefined && standing?.rights.has(asks))
    throw new Refusal(403, 'approval.needed', `${why} Ask one of them to approve it.`);
  throw new Refusal(403, 'right.missing', `${why} Ask somebody who may.`);
}

/** Refuses who may not do more than the route itself takes. */
export async function needRight(
  { person, signedIn }: Pick<Asking, 'person' | 'signedIn'>,
  w: string,
  right: Right,
): Promise<void> {
  await checkRight({ right }, w, await standingIn(w, person));
  if (signedIn && 'rights' in signedIn) checkGiven(signedIn as ByToken, right);
}

/** Refuses what a token wasn't given. */
function checkGiven({ rights }: ByToken, right: Right): void {
  if (rights.has(right)) return;
  throw new Refusal(
    403,
    'right.missing',
    `This token wasn’t given what it takes to ${RIGHTS[right]}. Make another that may.`,
  );
}

/** What somebody sees of a workspace who sees only a part; refuses what would show all of it. */
function checkSight({ showsPart }: Access, standing: Standing | null, person: string): Sight | null {
  const sight = standing === null ? null : sightOf(standing.accesses, person);
  if (sight === null || showsPart) return sight;
  throw new Refusal(
    403,
    'sight.part',
    'What you are here shows you a part of the workspace, and this would show all of it. Ask somebody who sees all.',
  );
}

async function checkWho(who: Access['who'], person: string, w: string | undefined): Promise<void> {
  if (w !== undefined) {
    const workspace = await loadWorkspace(w);
    if (who === 'person') checkPerson(workspace, person);
  }
  if (who === 'installation') await checkSomebody(person);
}

/**
 * Refuses what another site has a browser ask. What people type into the address line, and programs that aren't browsers, say nothing of a site.
 */
export function checkSite({ headers, method }: Request, { fromElsewhere }: Access): void {
  if (fromElsewhere) return;
  const site = headers.get('sec-fetch-site');
  const isFromElsewhere = site !== null && site !== 'same-origin' && site !== 'none';
  const origin = headers.get('origin');
  const own = settings().origin ?? `http://${headers.get('host') ?? ''}`;
  const isOther = origin !== null && origin !== own;
  if (!isFromElsewhere && !isOther && !(site === 'none' && method !== 'GET')) return;
  throw new Refusal(
    403,
    'origin.other',
    'Another page asked for this, not Oikon’s own. Nothing was done; open Oikon itself and do it there.',
  );
}

import { certain } from '@/core/values';
import { cookies, headers as headersHere } from 'next/headers';
import { cache } from 'react';
import { FirstAnswers as LaidBy } from '@/ui/shell/providers';
import { CLIENT_HEADER, PAGE_HEADER } from '@/server/requests/front';
import { FORM_COOKIE } from '@/ui/api/form-cookie';
import { GET as workspaces } from '@/app/api/v1/workspaces/route';
import { GET as approvals } from '@/app/api/v1/workspaces/[w]/approvals/route';
import { GET as families } from '@/app/api/v1/workspaces/[w]/sample-families/route';
import { GET as lists } from '@/app/api/v1/workspaces/[w]/lists/route';
import { GET as notices } from '@/app/api/v1/workspaces/[w]/notices/route';
import { GET as people } from '@/app/api/v1/workspaces/[w]/people/route';
import { GET as proofs } from '@/app/api/v1/workspaces/[w]/proofs/route';
import { GET as proposals } from '@/app/api/v1/workspaces/[w]/proposals/route';
import { GET as queued } from '@/app/api/v1/workspaces/[w]/queued-saves/route';
import { GET as records } from '@/app/api/v1/workspaces/[w]/records/[type]/route';
import { GET as record } from '@/app/api/v1/workspaces/[w]/records/[type]/[id]/route';
import { GET as followers } from '@/app/api/v1/workspaces/[w]/records/[type]/[id]/followers/route';
import { GET as history } from '@/app/api/v1/workspaces/[w]/records/[type]/[id]/history/route';
import { GET as requests } from '@/app/api/v1/workspaces/[w]/requests/route';
import { GET as rules } from '@/app/api/v1/workspaces/[w]/rules/route';
import { GET as rule } from '@/app/api/v1/workspaces/[w]/rules/[id]/route';
import { GET as proofsOfRule } from '@/app/api/v1/workspaces/[w]/rules/[id]/proofs/route';
import { GET as wholeProofs } from '@/app/api/v1/workspaces/[w]/rules/[id]/proofs/whole/route';
import { GET as versions } from '@/app/api/v1/workspaces/[w]/rules/[id]/versions/route';
import { GET as runs } from '@/app/api/v1/workspaces/[w]/runs/route';
import { GET as run } from '@/app/api/v1/workspaces/[w]/runs/[run]/route';
import { GET as unfinished } from '@/app/api/v1/workspaces/[w]/unfinished-rules/route';
import { GET as family } from '@/app/api/v1/workspaces/[w]/families/[type]/[id]/route';
import { GET as types } from '@/app/api/v1/workspaces/[w]/types/route';

type Handler = (request: Request, context: { params: Promise<never> }) => Promise<Response>;

/** What a page may bring along, by the address under the workspace's. */
const ROUTES = {
  '/approvals': approvals,
  '/families/{type}/{id}': family,
  '/lists': lists,
  '/notices': notices,
  '/people': people,
  '/proofs': proofs,
  '/proposals': proposals,
  '/queued-saves': queued,
  '/records/{type}': records,
  '/records/{type}/{id}': record,
  '/records/{type}/{id}/followers': followers,
  '/records/{type}/{id}/history': history,
  '/requests': requests,
  '/rules': rules,
  '/rules/{id}': rule,
  '/rules/{id}/proofs': proofsOfRule,
  '/rules/{id}/proofs/whole': wholeProofs,
  '/rules/{id}/versions': versions,
  '/runs': runs,
  '/runs/{run}': run,
  '/sample-families': families,
  '/types': types,
  '/unfinished-rules': unfinished,
} as const satisfies Readonly<Record<string, Handler>>;

export interface First {
  readonly route: keyof typeof ROUTES;
  readonly params?: Readonly<Record<string, string>>;
  /** As the interface writes it: with its question mark. */
  readonly query?: string;
}

/** Of several routes without parts to fill in. */
export const firsts = (...routes: readonly First['route'][]): First[] => routes.map((route) => ({ route }));

interface FirstAnswersProps {
  readonly w: string;
  readonly of: readonly First[];
  /** Whether the list of workspaces comes along, too. */
  readonly withWorkspaces?: boolean;
}

/**
 * Has the answers that a page asks for first come with it, told by the same handlers as by the API, through the same gates. The page doesn't wait for
 * them: they follow as they are known, while the browser reads the script. What is refused isn't told: the page asks for it again, and shows why.
 */
export function FirstAnswers({ w, of, withWorkspaces = false }: FirstAnswersProps) {
  const known = of.map((first): [string, Promise<unknown>] => [addressOf(w, first), firstAnswer(w, first)]);
  const all = ['/api/v1/workspaces', ask(workspaces, '/api/v1/workspaces', {})] as const;
  return <LaidBy answers={Object.fromEntries(withWorkspaces ? [...known, all] : known)} />;
}

/** What the API answers; `null` where it refuses. */
export const firstAnswer = (w: string, first: First): Promise<unknown> =>
  askedOnce(first.route, addressOf(w, first), JSON.stringify({ w, ...first.params }));

/** A page and what stands around it, and a page that reads an answer to know the next, ask for it once. */
const askedOnce = cache((route: First['route'], address: string, params: string) =>
  ask(ROUTES[route], address, JSON.parse(params) as object),
);

const addressOf = (w: string, { route, params = {}, query = '' }: First): string =>
  `/api/v1/workspaces/${w}${route.replaceAll(/\{(\w+)\}/g, (_, name: string) => certain(params[name]))}${query}`;

async function ask(handler: Handler, address: string, params: object): Promise<unknown> {
  const form = (await cookies()).get(FORM_COOKIE)?.value;
  const own = await headersHere();
  const kept = ['host', 'cookie', CLIENT_HEADER].flatMap((name) => {
    const value = own.get(name);
    return value === null ? [] : [[name, value] as const];
  });
  const headers = {
    ...Object.fromEntries(kept),
    [PAGE_HEADER]: '1',
    ...(form === undefined ? {} : { 'oikon-form': form }),
  };
  const request = new Request(`http://localhost${address}`, { headers });
  return handler(request, { params: Promise.resolve(params as never) }).then(
    (response) => (response.ok ? response.json() : null),
    () => null,
  );
}

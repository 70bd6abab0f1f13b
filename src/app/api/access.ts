import { MOST_BUNDLE } from '@/server/actions/bundles/read-bundle';
import type { Right } from '@/core/api';
import type { Work } from '@/server/requests/gates';
import { IN_MEMORY, mostUpload } from './body';

export type Method = 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';

/** What a route and method ask of whoever calls them, and of the server. Whatever isn't told here is refused. */
export interface Access {
  /**
   * Who may: a `stranger` and a `probe` without signing in; `account`: whoever is signed in themselves, not a program for them; `anyone` who is signed in, and takes part in the workspace that the address names; a
   * `person` of it who acts; an `operator` of the installation, who looks at it, or acts on it (`installation`). In the demo nobody signs in: who acts is named by the header `Oikon-Person`.
   */
  readonly who: 'stranger' | 'probe' | 'anyone' | 'account' | 'person' | 'operator' | 'installation';
  /** What one may have to do there, in the workspace that the address names; `null` where it names none. */
  readonly right: Right | null;
  /** What one may have instead, to ask that somebody who has it approves what one would do there. */
  readonly asks?: Right;
  /** Whether who asks may be known of a moment ago, since all that it saves proves that first, and it answers nothing before that. */
  readonly provesLate?: true;
  /** Whether it heeds what somebody sees who sees only a part of the workspace; else it is closed to them. */
  readonly showsPart?: true;
  readonly work: Exclude<Work, 'upload'> | 'probe';
  /** Whether it tells its steps line by line where it is asked to (`Accept: application/x-ndjson`). */
  readonly tells?: true;
  /** Whether it may save something: then it takes an `Idempotency-Key`. */
  readonly saves: boolean;
  /** Whether other sites may lead a browser here: what they bring along is held against what Oikon itself kept. */
  readonly fromElsewhere?: true;
  /** What it takes out as a file, in words: that is noted before it begins. */
  readonly takesOut?: string;
  readonly body?: BodyBounds;
  /** Parameters that the address's query may hold; `filter.` and the like stand for all that begin so. */
  readonly query?: readonly string[];
}

export interface BodyBounds {
  readonly types: readonly string[];
  readonly most: () => number;
}

const JSON_TYPE = 'application/json';
const json = (most = IN_MEMORY): BodyBounds => ({ types: [JSON_TYPE], most: () => most });
const LINES = ['application/x-ndjson', 'application/jsonl'];
const FILE = 'application/octet-stream';

type More = Pick<Access, 'query' | 'body'>;

/** Looks at what is there. */
const reads = (...query: string[]): Access => ({
  ...{ who: 'anyone', right: 'see', work: 'read', saves: false, query },
});
const readsLong = (...query: string[]): Access => ({
  ...{ who: 'anyone', right: 'see', work: 'long', saves: false, query },
});
/** Takes something out as a file, which the security ledger tells. */
const exports = (what: string, ...query: string[]): Access => ({
  ...readsLong(...query),
  ...{ right: 'export', takesOut: what },
});
/** Works something out and saves nothing. */
const triesLong = (body: BodyBounds, who: Access['who'] = 'anyone'): Access => ({
  ...{ who, right: 'see', work: 'long', saves: false, body },
});
const saves = (right: Right, more: More = {}): Access => ({
  ...{ who: 'person', right, work: 'save', saves: true, ...more },
});
const savesLong = (right: Right, more: More = {}): Access => ({ ...saves(right, more), work: 'long' });
const installs = (more: More = {}, right: Right | null = null): Access => ({
  ...{ who: 'installation', right, work: 'long', saves: true, ...more },
});

/** Looks at what is the installation's: its operators do. */
const overlooks = (...query: string[]): Access => ({
  ...{ who: 'operator', right: null, work: 'read', saves: false, query },
});
/** Signs in, or asks whether one is; each does its own work and takes no key. */
const enters = (body?: BodyBounds): Access => ({
  ...{ who: 'stranger', right: null, work: 'read', saves: false, ...(body ? { body } : {}) },
});

/** Does something with one's own account. */
const accounts = (body?: BodyBounds): Access => ({
  ...{ who: 'account', right: null, work: 'read', saves: false, ...(body ? { body } : {}) },
});

/** Shows and does only what somebody sees and may. */
const inPart = (access: Access): Access => ({ ...access, showsPart: true });

const LIST = ['search', 'condition', 'sort', 'bin', 'filter.', 'beneath.'];

/** Every route of the API with its methods. */
export const ACCESS = {
  '/health': { GET: { who: 'probe', right: null, work: 'probe', saves: false } },
  '/api/v1/bundle-schema': { GET: reads() },
  '/api/v1/bundles': { POST: installs({ body: json(MOST_BUNDLE), query: ['name'] }) },
  '/api/v1/installation-events': { GET: overlooks('before', 'limit') },
  '/api/v1/groups': { GET: overlooks(), POST: installs({ body: json() }) },
  '/api/v1/groups/{id}': { PATCH: installs({ body: json() }), DELETE: installs() },
  '/api/v1/people': { GET: reads() },
  '/api/v1/people/{id}': {
    PATCH: { who: 'account', right: null, work: 'save', saves: true, body: json() },
  },
  '/api/v1/people/{id}/data': { GET: overlooks(), DELETE: installs({ body: json() }) },
  '/api/v1/passkeys': { GET: accounts(), POST: accounts(json()) },
  '/api/v1/passkeys/challenges': { POST: accounts() },
  '/api/v1/passkeys/{handle}': { DELETE: accounts() },
  '/api/v1/people/{id}/second-factor': { DELETE: installs() },
  '/api/v1/second-factor': { GET: accounts(), POST: accounts(), DELETE: accounts(json()) },
  '/api/v1/second-factor/confirmations': { POST: accounts(json()) },
  '/api/v1/security-events': { GET: overlooks('before', 'limit') },
  '/api/v1/security-events/export': { GET: { ...overlooks(), work: 'long' } },
  '/api/v1/session': { GET: enters(), POST: enters(json()), DELETE: enters() },
  '/api/v1/session/passkey': { POST: enters(json()) },
  '/api/v1/session/passkey-challenges': { POST: enters() },
  '/api/v1/session/password': { POST: accounts(json()) },
  '/api/v1/session/password-addresses': { POST: enters(json()) },
  '/api/v1/session/provider': { GET: { ...enters(), query: ['to'] } },
  '/api/v1/session/provider/return': {
    GET: {
      ...{ ...enters(), fromElsewhere: true },
      query: ['code', 'state', 'iss', 'session_state', 'scope', 'error', 'error_description', 'error_uri'],
    },
  },
  '/api/v1/sessions': { GET: accounts() },
  '/api/v1/sessions/{handle}': { DELETE: accounts() },
  '/api/v1/tokens': { GET: accounts(), POST: accounts(json()) },
  '/api/v1/tokens/{handle}': { DELETE: accounts() },
  '/api/v1/welcome': { POST: enters(json()) },
  '/api/v1/welcome/administrator': { POST: enters(json()) },
  '/api/v1/welcome/password': { POST: enters(json()) },
  '/api/v1/workspaces': { GET: reads(), POST: installs({ body: json() }) },
  '/api/v1/workspaces/{w}': {
    ...{ PATCH: installs({ body: json() }, 'administer'), DELETE: installs({ body: json() }, 'administer') },
  },
  '/api/v1/workspaces/{w}/approvals': {
    GET: reads(),
    POST: saves('writeRules', { body: json(MOST_BUNDLE * 2) }),
  },
  '/api/v1/workspaces/{w}/approvals/{id}': { POST: savesLong('writeRules', { body: json() }) },
  '/api/v1/workspaces/{w}/bundle': { GET: exports('the workspace', 'records') },
  '/api/v1/workspaces/{w}/bundle-comparisons': { POST: triesLong(json(MOST_BUNDLE)) },
  '/api/v1/workspaces/{w}/bundle-merges': { POST: savesLong('administer', { body: json(MOST_BUNDLE * 2) }) },
  '/api/v1/workspaces/{w}/bundle-record-edits': { POST: triesLong(json(MOST_BUNDLE * 2)) },
  '/api/v1/workspaces/{w}/bundle-rehearsals': { POST: triesLong(json(MOST_BUNDLE * 2)) },
  '/api/v1/workspaces/{w}/changes': {
    POST: { ...inPart(saves('edit', { body: json() })), provesLate: true },
  },
  '/api/v1/workspaces/{w}/dictionary': { GET: reads() },
  '/api/v1/workspaces/{w}/dictionary/export': { GET: exports('the dictionary') },
  '/api/v1/workspaces/{w}/families/{type}/{id}': { GET: reads('whole') },
  '/api/v1/workspaces/{w}/groups': { GET: { ...reads(), right: 'administer' } },
  '/api/v1/workspaces/{w}/groups/{id}': { PATCH: saves('administer', { body: json() }) },
  '/api/v1/workspaces/{w}/import-rehearsals/{type}': {
    POST: { ...triesLong({ types: [FILE], most: mostUpload }, 'person'), tells: true },
  },
  '/api/v1/workspaces/{w}/imports/{type}': {
    POST: {
      ...savesLong('editMany', { body: { types: [...LINES, FILE], most: mostUpload }, query: ['note'] }),
      tells: true,
    },
  },
  '/api/v1/workspaces/{w}/list-edit-rehearsals/{type}': {
    POST: { ...triesLong(json(), 'person'), tells: true },
  },
  '/api/v1/workspaces/{w}/list-edits/{type}': {
    POST: { ...savesLong('editMany', { body: json() }), tells: true },
  },
  '/api/v1/workspaces/{w}/lists': { GET: inPart(reads()), POST: saves('edit', { body: json() }) },
  '/api/v1/workspaces/{w}/lists/{id}': { PATCH: saves('edit', { body: json() }), DELETE: saves('edit') },
  '/api/v1/workspaces/{w}/live-rules': {
    POST: { ...savesLong('takeLive', { body: json() }), asks: 'writeRules' },
  },
  '/api/v1/workspaces/{w}/live-rules/preview': { POST: triesLong(json()) },
  '/api/v1/workspaces/{w}/messages': { GET: inPart(reads()) },
  '/api/v1/workspaces/{w}/messages/{id}': { POST: saves('edit', { body: json() }) },
  '/api/v1/workspaces/{w}/model-changes': { POST: savesLong('administer', { body: json() }) },
  '/api/v1/workspaces/{w}/model-rehearsals': { POST: triesLong(json()) },
  '/api/v1/workspaces/{w}/notices': { GET: reads() },
  '/api/v1/workspaces/{w}/paused-rules': { POST: savesLong('takeLive', { body: json() }) },
  '/api/v1/workspaces/{w}/people': { GET: inPart(reads()), POST: saves('administer', { body: json() }) },
  '/api/v1/workspaces/{w}/people/{id}': {
    ...{ PATCH: saves('administer', { body: json() }), DELETE: saves('administer') },
  },
  '/api/v1/workspaces/{w}/people/{id}/password-addresses': { POST: { ...saves('administer'), saves: false } },
  '/api/v1/workspaces/{w}/proofs': {
    GET: readsLong(),
    POST: saves('writeRules', { body: json(MOST_BUNDLE) }),
  },
  '/api/v1/workspaces/{w}/proofs/{id}': {
    GET: reads(),
    PATCH: saves('writeRules', { body: json() }),
    DELETE: saves('writeRules'),
  },
  '/api/v1/workspaces/{w}/proposals': { GET: inPart(reads('decided')) },
  '/api/v1/workspaces/{w}/proposals/decisions': { POST: inPart(saves('edit', { body: json() })) },
  '/api/v1/workspaces/{w}/queued-saves': { GET: reads() },
  '/api/v1/workspaces/{w}/queued-saves/{id}': { POST: saves('edit', { body: json() }) },
  '/api/v1/workspaces/{w}/rates': { POST: saves('edit') },
  '/api/v1/workspaces/{w}/records/{type}': {
    GET: inPart(reads('limit', 'after', ...LIST)),
    POST: inPart(saves('edit', { body: json() })),
  },
  '/api/v1/workspaces/{w}/records/{type}/export': {
    GET: inPart(exports('records', 'format', 'fields', ...LIST)),
  },
  '/api/v1/workspaces/{w}/records/{type}/{id}': {
    ...{
      GET: inPart(reads('bin')),
      PATCH: inPart(saves('edit', { body: json() })),
      DELETE: inPart(saves('edit', { query: ['version'] })),
    },
  },
  '/api/v1/workspaces/{w}/records/{type}/{id}/explanations/{field}': {
    GET: inPart(reads('from', 'limit')),
  },
  '/api/v1/workspaces/{w}/records/{type}/{id}/followers': { GET: reads() },
  '/api/v1/workspaces/{w}/records/{type}/{id}/history': { GET: inPart(reads('before', 'limit')) },
  '/api/v1/workspaces/{w}/records/{type}/{id}/recalculations/{field}': { POST: saves('edit') },
  '/api/v1/workspaces/{w}/rehearsals': { POST: triesLong(json()) },
  '/api/v1/workspaces/{w}/requests': { GET: reads(), POST: saves('writeRules', { body: json() }) },
  '/api/v1/workspaces/{w}/requests/{id}': {
    PATCH: saves('writeRules', { body: json() }),
    DELETE: saves('writeRules'),
  },
  '/api/v1/workspaces/{w}/requests/{id}/agreements': { POST: saves('writeRules', { body: json() }) },
  '/api/v1/workspaces/{w}/requests/{id}/sheet': { GET: readsLong() },
  '/api/v1/workspaces/{w}/roles': { POST: saves('administer', { body: json() }) },
  '/api/v1/workspaces/{w}/roles/{id}': {
    ...{ PATCH: saves('administer', { body: json() }), DELETE: saves('administer') },
  },
  '/api/v1/workspaces/{w}/roles/{id}/access': {
    GET: { ...reads(), right: 'administer' },
    POST: saves('administer', { body: json() }),
  },
  '/api/v1/workspaces/{w}/second-step-roles': { POST: saves('administer', { body: json() }) },
  '/api/v1/workspaces/{w}/rule-reviews': { POST: triesLong(json()) },
  '/api/v1/workspaces/{w}/rule-samples': { POST: triesLong(json()) },
  '/api/v1/workspaces/{w}/rule-tags': { POST: saves('writeRules', { body: json() }) },
  '/api/v1/workspaces/{w}/rules': { GET: reads('retired'), POST: saves('writeRules', { body: json() }) },
  '/api/v1/workspaces/{w}/rules/{id}': {
    ...{ GET: reads(), PATCH: saves('writeRules', { body: json() }), DELETE: saves('writeRules') },
  },
  '/api/v1/workspaces/{w}/rules/{id}/filled/{source}': { GET: reads() },
  '/api/v1/workspaces/{w}/rules/{id}/preview': { GET: readsLong(), POST: triesLong(json()) },
  '/api/v1/workspaces/{w}/rules/{id}/preview/changes': { POST: triesLong(json()) },
  '/api/v1/workspaces/{w}/rules/{id}/proofs': { GET: readsLong() },
  '/api/v1/workspaces/{w}/rules/{id}/proofs/whole': { GET: reads() },
  '/api/v1/workspaces/{w}/rules/{id}/recalculations': { POST: savesLong('takeLive') },
  '/api/v1/workspaces/{w}/rules/{id}/state': {
    POST: { ...savesLong('takeLive', { body: json() }), asks: 'writeRules' },
  },
  '/api/v1/workspaces/{w}/rules/{id}/strength': { GET: { ...readsLong(), tells: true } },
  '/api/v1/workspaces/{w}/rules/{id}/versions': { GET: reads() },
  '/api/v1/workspaces/{w}/runs': {
    GET: reads('before', 'limit', 'person', 'kind', 'rule', 'type', 'from', 'to', 'search'),
  },
  '/api/v1/workspaces/{w}/runs/{run}': { GET: reads('after', 'limit') },
  '/api/v1/workspaces/{w}/runs/{run}/groups': { GET: readsLong() },
  '/api/v1/workspaces/{w}/runs/{run}/groups/changes': {
    GET: reads('wave', 'kind', 'type', 'field', 'rule', 'search', 'after', 'limit'),
  },
  '/api/v1/workspaces/{w}/runs/{run}/left': { GET: readsLong() },
  '/api/v1/workspaces/{w}/runs/{run}/undo': { GET: readsLong('from', 'limit'), POST: savesLong('edit') },
  '/api/v1/workspaces/{w}/sample-families': {
    GET: reads(),
    POST: saves('writeRules', { body: json(MOST_BUNDLE) }),
  },
  '/api/v1/workspaces/{w}/sample-families/{id}': { GET: reads(), DELETE: saves('writeRules') },
  '/api/v1/workspaces/{w}/sample-families/{id}/differences': { GET: readsLong() },
  '/api/v1/workspaces/{w}/search': { GET: inPart(reads('text')) },
  '/api/v1/workspaces/{w}/services': {
    GET: { ...reads(), right: 'administer' },
    POST: saves('administer', { body: json() }),
  },
  '/api/v1/workspaces/{w}/services/{id}/tokens': {
    POST: { ...saves('administer', { body: json() }), saves: false },
  },
  '/api/v1/workspaces/{w}/services/{id}/tokens/{handle}': { DELETE: saves('administer') },
  '/api/v1/workspaces/{w}/settled-day': { POST: savesLong('administer') },
  '/api/v1/workspaces/{w}/two-people': { POST: saves('administer', { body: json() }) },
  '/api/v1/workspaces/{w}/unfinished-rules': { GET: reads(), POST: saves('writeRules', { body: json() }) },
  '/api/v1/workspaces/{w}/unfinished-rules/{id}': { DELETE: saves('writeRules') },
  '/api/v1/workspaces/{w}/uses': { GET: reads('type', 'field', 'option', 'selection', 'person') },
  '/api/v1/workspaces/{w}/types': { GET: inPart(reads()) },
} satisfies Readonly<Record<string, Partial<Record<Method, Access>>>>;

export type Path = keyof typeof ACCESS;

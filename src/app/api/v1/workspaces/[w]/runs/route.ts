import { runBefore, wholeNumber } from '@/app/api/answer';
import { endpoint, workspaceOf } from '@/app/api/endpoint';
import { isUuid, parseValue } from '@/core/values';
import { listRuns, type RunFilter } from '@/server/queries/ledger/runs';
import { Refusal } from '@/server/refusal';
import type { StoredRun } from '@/server/queries/run-head';

const KINDS: Readonly<Record<StoredRun['kind'], true>> = {
  ...{ save: true, load: true, import: true, listEdit: true, live: true },
  ...{ pause: true, model: true, day: true, pace: true },
};

const isKind = (text: string): text is StoredRun['kind'] => Object.hasOwn(KINDS, text);

export const { GET, POST, PUT, PATCH, DELETE } = endpoint('/api/v1/workspaces/{w}/runs', {
  /** `?before=run&limit=`, and what the list is narrowed to. */
  GET: async ({ params, query }) => {
    const limit = wholeNumber(query.get('limit'), 50, { least: 1, most: 200, name: 'limit' });
    const filter = filterOf(query);
    return { body: await listRuns(await workspaceOf(params), runBefore(query), limit, filter) };
  },
});

function filterOf(query: URLSearchParams): RunFilter {
  const given = (name: string, isRight: (text: string) => boolean, expected: string): string | undefined => {
    const text = query.get(name);
    if (text === null || text === '') return undefined;
    if (isRight(text)) return text;
    throw new Refusal(422, 'run.filter', `“${name}” should be ${expected}, found “${text.slice(0, 60)}”.`);
  };
  const isDay = (text: string) => parseValue({ kind: 'date' }, text).ok;
  const kind = given('kind', isKind, `one of ${Object.keys(KINDS).join(', ')}`);
  const filter = {
    person: given('person', (text) => text === 'none' || isUuid(text), 'the id of a person, or none'),
    rule: given('rule', isUuid, 'the id of a rule'),
    type: given('type', () => true, 'the key of a type'),
    from: given('from', isDay, 'a day such as 2026-03-14'),
    to: given('to', isDay, 'a day such as 2026-03-14'),
    search: given('search', (text) => text.length <= 200, 'at most 200 characters'),
  };
  return {
    ...Object.fromEntries(Object.entries(filter).filter(([, text]) => text !== undefined)),
    ...(kind !== undefined && isKind(kind) ? { kind } : {}),
  };
}

import type { Model } from '@/core/model';
import { compareText, lastIn, parseValue, valueAt } from '@/core/values';
import { type RunCount, type RunList, type RunView } from '@/core/api';
import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { inSnapshot } from '@/server/store/session/transactions';
import { MADE_SOURCE } from '@/server/store/write/created-records';
import { Binds, quote, run, tableOf } from '@/server/store/sql/sql';
import { likeText } from '@/server/store/sql/like-text';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import type { LedgerSource } from '@/server/store/write/ledger-entries';
import { countsOfRun, entriesSql } from '@/server/store/write/run-counts';
import { readLedgerWords } from './ledger-words';
import { type Logged, madeView, type MadeRef, viewsOf } from './run-views';
import { headOf, RUN_COLUMNS, type StoredRun } from '@/server/queries/run-head';
import { Wanted } from '@/server/store/session/titles';

/** Records of a run that are on a page where nothing else is asked for. */
export const RUN_PAGE = 300;

/** What a list of runs is narrowed to; each is left out where it isn't. */
export interface RunFilter {
  /** Who started it, by id; `none` for what nobody did. */
  readonly person?: string;
  readonly kind?: StoredRun['kind'];
  /** Runs in which this rule wrote something, or was taken live or paused by itself. */
  readonly rule?: string;
  /** Runs that did something to records of this type. */
  readonly type?: string;
  /** Days of the workspace's time zone, both included. */
  readonly from?: string;
  readonly to?: string;
  /** What the note holds, whatever the case; a number is also a run's. */
  readonly search?: string;
}

/** The workspace's runs, the latest first; `before` is a run's number. */
export function listRuns(
  workspace: LoadedWorkspace,
  before: string | null,
  limit: number,
  filter: RunFilter = {},
): Promise<RunList> {
  return inSnapshot(async (transaction) => {
    const binds = new Binds();
    const tests = filterTests(workspace, filter, binds);
    if (before !== null) tests.push(`r.id < ${binds.add(before, 'bigint')}`);
    const where = tests.length > 0 ? `WHERE ${tests.join(' AND ')}` : '';
    const found = await run<StoredRun & { changed: number }>(
      transaction,
      `SELECT ${RUN_COLUMNS}, ${entriesSql(workspace.schema)} AS changed FROM ${quote(workspace.schema)}._run r ${where} ORDER BY r.id DESC LIMIT ${limit + 1}`,
      binds.values,
    );
    const runs = found.slice(0, limit).map(({ changed, ...stored }) => ({
      ...headOf(workspace, stored),
      changed: countOf(changed),
    }));
    return { runs, next: found.length > limit ? lastIn(runs).run : null };
  });
}

function filterTests(
  { model, schema, timeZone }: LoadedWorkspace,
  { person, kind, rule, type, from, to, search }: RunFilter,
  binds: Binds,
): string[] {
  const s = quote(schema);
  const day = () => `(r.at AT TIME ZONE ${binds.add(timeZone, 'text')})::date`;
  const tests: string[] = [];
  if (person === 'none') tests.push('r.person IS NULL');
  else if (person !== undefined) tests.push(`r.person = ${binds.add(person, 'uuid')}`);
  if (kind !== undefined) tests.push(`r.kind = ${binds.add(kind, 'text')}`);
  if (from !== undefined) tests.push(`${day()} >= ${binds.add(from, 'date')}`);
  if (to !== undefined) tests.push(`${day()} <= ${binds.add(to, 'date')}`);
  if (rule !== undefined) {
    const versions = `(SELECT v.id FROM ${s}._rule_version v WHERE v.rule = ${binds.add(rule, 'uuid')})`;
    tests.push(
      `(r.rule_version IN ${versions} OR EXISTS (SELECT FROM ${s}._made_ever m WHERE m.run = r.id AND m.rule = ${binds.add(rule, 'uuid')})
        OR EXISTS (SELECT FROM ${s}._ledger l CROSS JOIN LATERAL jsonb_each(l.sources) c
          WHERE l.run = r.id AND (c.value ->> 'ruleVersion')::uuid IN ${versions}))`,
    );
  }
  if (type !== undefined)
    tests.push(
      `(${[
        `EXISTS (SELECT FROM ${s}._ledger l WHERE l.run = r.id AND l.type = ${binds.add(type, 'text')})`,
        ...(model.type(type)
          ? [`EXISTS (SELECT FROM ${tableOf(schema, type)} t WHERE t.created_run = r.id)`]
          : []),
      ].join(' OR ')})`,
    );
  if (search !== undefined && search !== '') {
    const holds = `lower(r.note) LIKE lower(${binds.add(`%${likeText(search)}%`, 'text')})`;
    tests.push(/^\d{1,18}$/.test(search) ? `(${holds} OR r.id = ${binds.add(search, 'bigint')})` : holds);
  }
  return tests;
}

const countOf = (changed: number) => ({ number: changed, isExact: true });

/** What a run made and did something to, by type, event and rule, in the order in which it is told. */
async function countsIn(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  id: string,
): Promise<RunCount[]> {
  const names = new Map(
    (
      await run<{ id: string; name: string }>(
        transaction,
        `SELECT id::text, name FROM ${quote(schema)}._rule`,
      )
    ).map((rule) => [rule.id, rule.name]),
  );
  const order = ['created', 'changed', 'deleted', 'restored'];
  return (await countsOfRun(transaction, { model, schema }, id))
    .map(({ type, kind, rule, records }): RunCount => {
      const { name: typeName, plural } = model.type(type) ?? { name: type, plural: type };
      return {
        type,
        typeName,
        plural,
        kind,
        rule: rule === null ? null : { id: rule, name: valueAt(names, rule) },
        records,
      };
    })
    .sort(
      (a, b) =>
        Number(a.rule !== null) - Number(b.rule !== null) ||
        order.indexOf(a.kind) - order.indexOf(b.kind) ||
        b.records - a.records ||
        compareText(`${a.plural} ${a.rule?.name ?? ''}`, `${b.plural} ${b.rule?.name ?? ''}`),
    );
}

/** What is stored of a run itself. */
export async function findRun(
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  id: string,
): Promise<StoredRun> {
  const isNumber = /^\d{1,18}$/.test(id);
  const [stored] = isNumber
    ? await run<StoredRun>(
        transaction,
        `SELECT ${RUN_COLUMNS} FROM ${quote(schema)}._run r WHERE r.id = $1`,
        [id],
      )
    : [];
  if (!stored) throw new Refusal(404, 'run.unknown', `There is no run ${id}. Go back to the ledger.`);
  return stored;
}

/**
 * A run with its ripple, as the ledger has it, page by page: what it changed, then what it made. Waves of one number belong
 * together over all pages.
 */
export const getRun = (
  workspace: LoadedWorkspace,
  id: string,
  after: string | null = null,
  limit = RUN_PAGE,
): Promise<RunView> =>
  inSnapshot(async (transaction) => ({
    ...(await runIn(transaction, workspace, id, after, limit)),
    counts: after === null ? await countsIn(transaction, workspace, id) : null,
  }));

/** The same within a transaction, uncounted. */
export async function runIn(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  id: string,
  after: string | null,
  limit: number,
): Promise<Omit<RunView, 'counts'>> {
  const stored = await findRun(transaction, workspace, id);
  const { logged, made, next } = await readPart(transaction, workspace, id, { after, limit });
  const wanted = new Wanted();
  for (const { type, record } of [...logged, ...made]) wanted.add(type, record);
  const asLogged = made.map(({ type, record, source }): Logged => ({
    ...{ type, record, event: 'changed', changes: {} },
    sources: source ? { '': source } : {},
  }));
  const words = await readLedgerWords(transaction, workspace, [...logged, ...asLogged], wanted);
  const changes = [
    ...made.map((ref) => madeView(workspace.model, ref, words)),
    ...logged.flatMap((entry) => viewsOf(workspace.model, entry, words)),
  ];
  // What was asked for comes before what went along with it.
  changes.sort((a, b) => Math.min(1, a.causes.length) - Math.min(1, b.causes.length));
  const numbers = [...new Set(changes.map(({ wave }) => wave))].sort((a, b) => a - b);
  return {
    ...headOf(workspace, stored),
    waves: numbers.map((number) => ({
      number,
      changes: changes.filter(({ wave }) => wave === number).map(({ wave: _wave, ...view }) => view),
    })),
    next,
  };
}

/** Where a page ends: among what was changed, or among what was made. */
type Mark = readonly ['changed' | 'made', type: string, record: string];

const writeMark = (mark: Mark): string => Buffer.from(JSON.stringify(mark)).toString('base64url');

function readMark(model: Model, text: string): Mark {
  const refused = new Refusal(
    422,
    'run.after',
    '“after” should be the “next” of a page of the same run. Start again from the first page.',
  );
  try {
    const [part, type, record] = JSON.parse(Buffer.from(text, 'base64url').toString('utf8')) as unknown[];
    const isMark =
      (part === 'changed' || part === 'made') &&
      typeof type === 'string' &&
      model.type(type) !== undefined &&
      parseValue({ kind: 'link', target: type }, record).ok;
    if (!isMark) throw refused;
    return [part, type as string, record as string];
  } catch {
    throw refused;
  }
}

interface Part {
  readonly logged: readonly Logged[];
  readonly made: readonly MadeRef[];
  readonly next: string | null;
}

async function readPart(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  id: string,
  { after, limit }: { readonly after: string | null; readonly limit: number },
): Promise<Part> {
  const [part, from, record] = after === null ? [null, '', ''] : readMark(model, after);
  const logged =
    part === 'made'
      ? []
      : await run<Logged>(
          transaction,
          // By the columns, not by what is told of them: so an index has them in order.
          `SELECT type, record::text, event, changes, sources FROM ${quote(schema)}._ledger l
            WHERE run = $1 ${from === '' ? '' : 'AND (type, record) > ($2, $3::uuid)'} ORDER BY l.type, l.record LIMIT ${limit + 1}`,
          from === '' ? [id] : [id, from, record],
        );
  const made: MadeRef[] = [];
  const keys = model.types.map(({ key }) => key);
  for (const type of part === 'made' ? keys.slice(keys.indexOf(from)) : keys) {
    const left = limit + 1 - logged.length - made.length;
    if (left <= 0) break;
    const found = await run<{ record: string; source: LedgerSource | null }>(
      transaction,
      `SELECT t.id::text AS record, (SELECT ${MADE_SOURCE} FROM ${quote(schema)}._made_ever m WHERE m.made = t.id AND m.run = $1 LIMIT 1) AS source
        FROM ${tableOf(schema, type)} t WHERE t.created_run = $1 AND ($2::uuid IS NULL OR t.id > $2) ORDER BY t.id LIMIT ${left}`,
      [id, part === 'made' && type === from ? record : null],
    );
    made.push(...found.map((row) => ({ type, ...row })));
  }
  if (logged.length + made.length <= limit) return { logged, made, next: null };
  // One more than a page was read: the last of what stays is where the next goes on.
  if (made.length > 0) made.pop();
  else logged.pop();
  const last = made.at(-1) ?? lastIn(logged);
  return { logged, made, next: writeMark([made.length > 0 ? 'made' : 'changed', last.type, last.record]) };
}

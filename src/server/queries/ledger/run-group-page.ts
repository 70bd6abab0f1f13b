import type { GroupPage } from '@/core/api';
import type { GroupKey } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { titleHoldsSql } from '@/server/queries/records/list-records';
import { Refusal } from '@/server/refusal';
import { inSnapshot } from '@/server/store/session/transactions';
import { Wanted } from '@/server/store/session/titles';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { Binds, quote, run, tableOf } from '@/server/store/sql/sql';
import { MADE_SOURCE } from '@/server/store/write/created-records';
import type { LedgerSource } from '@/server/store/write/ledger-entries';
import { readLedgerWords } from './ledger-words';
import { type Logged, madeView, viewsOf } from './run-views';
import { findRun } from './runs';

export interface GroupAsked extends Omit<GroupKey, 'rule'> {
  /** The rule's id; `null` for none. */
  readonly rule: string | null;
  /** Only records whose title holds this, whatever the case. */
  readonly search: string;
  /** The last record of the page before. */
  readonly after: string | null;
  readonly limit: number;
}

/** Changes of a run that are alike, record by record, page by page. */
export function runGroupPage(workspace: LoadedWorkspace, id: string, asked: GroupAsked): Promise<GroupPage> {
  return inSnapshot(async (transaction) => {
    await findRun(transaction, workspace, id);
    const { model } = workspace;
    const { type, kind, field } = asked;
    if (!model.type(type) && (asked.search !== '' || kind === 'created'))
      throw new Refusal(422, 'run.group', `There is no type “${type}” any more, so it can’t be searched.`);
    const logged: readonly Logged[] =
      kind === 'created' ? [] : await readLogged(transaction, workspace, id, asked);
    const made = kind === 'created' ? await readMade(transaction, workspace, id, asked) : [];
    const read = [...logged, ...made];
    const more = read.length > asked.limit;
    const shownLogged = logged.slice(0, asked.limit);
    const shownMade = made.slice(0, asked.limit);
    const wanted = new Wanted();
    for (const { record } of [...shownLogged, ...shownMade]) wanted.add(type, record);
    const asLogged = shownMade.map(({ source, record }): Logged => ({
      ...{ type, record, event: 'changed', changes: {} },
      sources: source ? { '': source } : {},
    }));
    const words = await readLedgerWords(transaction, workspace, [...shownLogged, ...asLogged], wanted);
    const changes = [
      ...shownMade.map(({ record, source }) => madeView(model, { type, record, source }, words)),
      ...shownLogged
        .flatMap((entry) => viewsOf(model, entry, words))
        .filter((view) => view.kind === kind && view.field === field),
    ];
    return {
      changes: changes.map(({ wave: _wave, ...view }) => view),
      next: more ? (read[asked.limit - 1]?.record ?? null) : null,
    };
  });
}

function readLogged(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  id: string,
  { wave, kind, type, field, rule, search, after, limit }: GroupAsked,
): Promise<Logged[]> {
  const s = quote(schema);
  const binds = new Binds();
  const source = `(l.sources -> ${binds.add(field, 'text')})`;
  const tests = [
    `l.run = ${binds.add(id, 'bigint')}`,
    `l.type = ${binds.add(type, 'text')}`,
    kind === 'field' ? `l.changes ? ${binds.add(field, 'text')}` : `l.event = ${binds.add(kind, 'text')}`,
    `COALESCE((${source} ->> 'wave')::int, 0) = ${binds.add(wave, 'int')}`,
    rule === null
      ? `${source} ->> 'ruleVersion' IS NULL`
      : `(${source} ->> 'ruleVersion')::uuid IN (SELECT v.id FROM ${s}._rule_version v WHERE v.rule = ${binds.add(rule, 'uuid')})`,
    ...(after === null ? [] : [`l.record > ${binds.add(after, 'uuid')}`]),
  ];
  const titled =
    search === ''
      ? ''
      : `JOIN ${tableOf(schema, type)} t ON t.id = l.record AND ${titleHoldsSql(model, type, search, binds)}`;
  return run<Logged>(
    transaction,
    `SELECT l.type, l.record::text AS record, l.event, l.changes, l.sources FROM ${s}._ledger l ${titled}
      WHERE ${tests.join(' AND ')} ORDER BY l.record LIMIT ${limit + 1}`,
    binds.values,
  );
}

function readMade(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  id: string,
  { wave, type, rule, search, after, limit }: GroupAsked,
): Promise<{ record: string; source: LedgerSource | null }[]> {
  const binds = new Binds();
  const ofRun = binds.add(id, 'bigint');
  const tests = [
    `t.created_run = ${ofRun}`,
    `COALESCE(m.wave, 0) = ${binds.add(wave, 'int')}`,
    rule === null ? 'm.rule IS NULL' : `m.rule = ${binds.add(rule, 'uuid')}`,
    ...(after === null ? [] : [`t.id > ${binds.add(after, 'uuid')}`]),
    ...(search === '' ? [] : [titleHoldsSql(model, type, search, binds)]),
  ];
  return run(
    transaction,
    `SELECT t.id::text AS record, CASE WHEN m.made IS NOT NULL THEN ${MADE_SOURCE} END AS source
      FROM ${tableOf(schema, type)} t LEFT JOIN ${quote(schema)}._made_ever m ON m.made = t.id AND m.run = ${ofRun}
      WHERE ${tests.join(' AND ')} ORDER BY t.id LIMIT ${limit + 1}`,
    binds.values,
  );
}

import {
  ask,
  type Change,
  type BulkAssignment,
  bulkAssignment,
  runCascade,
  type Need,
  reactionFails,
  type WritePrecedence,
  rowSet,
  type RowsOf,
  runWith,
  recipientsOf,
  type Touched,
  titleOf,
  type WorkedOut,
} from '@/core/engine';
import type { RunContext } from '@/core/expression';
import { keepsField } from '@/server/store/write/keeps-field';
import { type Model, typeUp } from '@/core/model';
import {
  competeForField,
  type CompiledCreate,
  type ReactingCascade,
  type CompiledRule,
  isCreate,
  reachOf,
} from '@/core/rules';
import { certain, firstIn, isError, lastIn, valueAt, writeCount } from '@/core/values';
import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
import type { EnteredQuery } from '@/server/store/rule-sql/result-sql';
import { expressionSql } from '@/server/store/rule-sql/expression-sql';
import { bulkCascadeSet } from '@/server/store/sets/bulk-cascade-sql';
import { contextOfRun } from '@/server/store/write/run-context';
import { RunWriter } from '@/server/store/write/run-writer';
import { RouteJoins } from '@/server/store/rule-sql/route-joins';
import { Binds, quote, run, tableOf } from '@/server/store/sql/sql';
import { ALL_MADE, touchedInRun } from '@/server/store/sets/touched-in-run';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

export interface BulkCascade {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  /** The run that changed many records. */
  readonly run: string;
  /** All that one rule cascades. */
  readonly parts: readonly ReactingCascade[];
  /** What rules that come first wrote in this run, those after them leave. */
  readonly writePrecedence: WritePrecedence;
  /** Pages of records that cascade, in the order of their ids; left out for what the run changed. */
  readonly touched?: (page: Page) => Promise<Touched[]>;
  readonly entered?: EnteredQuery;
}

/** So many records that changed are looked at together. */
const PAGE = 2_000;
/** Most of them where several may cascade to one: these have to be put in order together. */
const MOST_TOGETHER = 20_000;

/**
 * What a rule cascades after a run over many records, as an import or an edit of a list: the ledger and the run's own records tell what
 * changed. The engine says what is written, page by page; nobody else saves meanwhile. Answers for each of the parts how many values it
 * wrote.
 */
export async function bulkCascade(input: BulkCascade): Promise<number[]> {
  const { workspace, parts } = input;
  const written = parts.map(() => 0);
  const [rule] = parts as [ReactingCascade];
  const facts = await contextOfRun(input.transaction, workspace, input.run);
  const reach = reachOf(workspace.model, rule.source, rule.route);
  const isAlone = reach === 'beneath' || reach === 'itself';
  const most = isAlone ? PAGE : MOST_TOGETHER + 1;
  const pageOf = (type: string, page: Page) =>
    input.touched ? input.touched(page) : touchedIn(input, rule, type, page);
  for (const type of input.touched ? [rule.source] : watchedTypes(workspace.model, rule)) {
    for (let after = ''; ;) {
      const page = await pageOf(type, { after, most });
      if (page.length === 0) break;
      if (!isAlone && page.length > MOST_TOGETHER) throw tooMany(rule, page.length);
      const counts = await cascadePage(input, page, facts);
      counts.forEach((count, at) => {
        written[at]! += count;
      });
      if (page.length < most) break;
      after = lastIn(page).id;
    }
  }
  return written;
}

const tooMany = ({ name }: ReactingCascade, records: number): Refusal =>
  new Refusal(
    422,
    'cascade.many',
    `“${name}” would have to put more than ${writeCount(MOST_TOGETHER)} records in order (${writeCount(records)} and more changed at once). Nothing was saved; send them in parts.`,
  );

/** Where rules that react into one field go by precedence it has to be told record by record which of them wrote. */
export const rivalsRefused = ({ name, target }: Pick<CompiledRule, 'name' | 'target'>): Refusal =>
  new Refusal(
    422,
    'cascade.many',
    `“${name}” and another rule both write ${target.name}, by precedence, which isn’t told of so many records at once. Nothing was saved; send them in parts, or pause one of the two.`,
  );

/** Types whose records a rule acts on when they change, are made or are moved. */
function watchedTypes(model: Model, { writes, source, moment }: ReactingCascade): string[] {
  if (moment.kind === 'onChange') return [source];
  return [...new Set(moment.up.map((_, at) => typeUp(model, writes.type, moment.up.slice(0, at))))];
}

export interface Page {
  readonly after: string;
  readonly most: number;
}

/** Records that the run made or changed so that the rule may act. */
function touchedIn(
  { transaction, workspace, run: runId }: BulkCascade,
  { writes, moment }: ReactingCascade,
  type: string,
  page: Page,
): Promise<Touched[]> {
  const watched =
    moment.kind === 'onChange'
      ? moment.tests.map(({ field }) => field.key)
      : moment.up.filter((link) => workspace.model.field(type, link));
  // Of a record just made nothing changed, but it may have become something.
  const isMadeAsked =
    moment.kind === 'onChange' ? moment.tests.some(({ kind }) => kind === 'became') : type === writes.type;
  return touchedInRun(transaction, workspace, {
    ...{ run: runId, type, watched, made: isMadeAsked ? ALL_MADE : null, ...page },
  });
}

async function cascadePage(
  input: BulkCascade,
  page: readonly Touched[],
  facts: RunContext | null,
): Promise<number[]> {
  const { transaction, workspace, run: runId, parts } = input;
  const { model } = workspace;
  const info = { kind: 'save', person: null } as const;
  const driver = new PostgresDriver(workspace, transaction, info, true);
  const touched = new Map(page.map((entry) => [`${entry.type} ${entry.id}`, entry]));
  const known = new Map(page.map((entry) => [`${entry.type} ${entry.id}`, certain(entry.after)]));
  const rowsOf: RowsOf = function* (type, ids) {
    const wanted = [...ids];
    const set = rowSet(
      type,
      wanted.filter((id) => !known.has(`${type} ${id}`)),
    );
    if (set.ids.length > 0)
      for (const row of (yield* ask<'records'>({ kind: 'records', set })).rows.values())
        known.set(`${type} ${row.id}`, row);
    return new Map(
      wanted.flatMap((id) => (known.has(`${type} ${id}`) ? [[id, valueAt(known, `${type} ${id}`)]] : [])),
    );
  };
  const of = { model, touched, rowsOf, facts };
  const answer = (need: Need) => driver.answer(need);
  const found = await runWith(
    answer,
    recipientsOf({ ...of, rule: firstIn(parts) }, () => false),
  );
  const refuse = (rule: ReactingCascade, type: string, id: string): Refusal => {
    const row = known.get(`${type} ${id}`);
    return new Refusal(422, 'rule.reaction', reactionFails(rule, row ? titleOf(model, row) : id));
  };
  const hasRivals = parts.some((rule) => workspace.plan.rules.some((other) => competeForField(other, rule)));
  if ('many' in found && hasRivals) throw rivalsRefused(firstIn(parts));
  if ('many' in found) {
    const handed: BulkAssignment[] = [];
    for (const rule of parts) {
      const given = await runWith(answer, bulkAssignment({ ...of, rule }, found.many));
      if ('failed' in given) throw refuse(rule, rule.source, given.failed);
      handed.push({ rule, given, except: [...(await enteredIn(input, rule))] });
    }
    const isKept = keepsField(workspace.plan);
    return bulkCascadeSet({ transaction, schema: workspace, run: runId, parts: handed, isKept });
  }
  const all: { worked: WorkedOut; causes: Change['causes'] }[] = [];
  for (const rule of parts) {
    const entered = await enteredIn(input, rule);
    const { writePrecedence: shared } = input;
    const writePrecedence: Parameters<typeof runCascade>[2] = {
      isTaken: (cell, writer) => entered.has(cell.id) || shared.isTaken(cell, writer),
      writes: (writer, id) => hasRivals && shared.writes(writer, id),
      overruledBy: (writer, cell, value) => shared.overruledBy(writer, cell, value),
    };
    const { failed, changed, causes } = await runWith(
      answer,
      runCascade({ ...of, rule }, found.recipients, writePrecedence),
    );
    if (failed) throw refuse(rule, rule.writes.type, failed.id);
    all.push(...changed.map((worked) => ({ worked, causes: causes.get(worked.id) ?? [] })));
  }
  const made = new Set(page.flatMap(({ type, id, before: was }) => (was === null ? [`${type} ${id}`] : [])));
  const writer = new RunWriter(
    workspace,
    transaction,
    info,
    (ref) => valueAt(known, `${ref.type} ${ref.id}`),
    {
      run: runId,
      made,
    },
  );
  writer.add(
    all.map(({ worked: { rule, id, before: had, after }, causes }) => ({
      ...{ kind: 'edit' as const, ...rule.writes, id, wave: 1, events: [] },
      changes: [
        {
          ...{ ...rule.writes, id, wave: 1, rule: rule.id, causes },
          ...{ before: isError(had) ? null : had.value, after: isError(after) ? null : after.value },
          ...{ error: null, errorBefore: isError(had) ? had.error : null },
        },
      ],
    })),
  );
  await writer.finish();
  return parts.map((rule) => all.filter(({ worked }) => worked.rule === rule).length);
}

/** Ids of records of which a person entered the rule's field in this run, or a rule that made them assigned it. */
async function enteredIn(
  { transaction, workspace, run: runId, entered }: BulkCascade,
  { writes }: ReactingCascade,
): Promise<Set<string>> {
  const binds = new Binds();
  const sql = [
    ...[entered?.(writes, binds) ?? []].flat(),
    ...workspace.plan.turns
      .filter(isCreate)
      .filter(({ makes }) => makes === writes.type)
      .flatMap((maker) => assignedSql(workspace, { maker, field: writes.field, run: runId }, binds) ?? []),
  ];
  if (sql.length === 0) return new Set();
  const found = await run<{ id: string }>(
    transaction,
    `SELECT x.id::text FROM (${sql.join(' UNION ')}) x(id)`,
    binds.values,
  );
  return new Set(found.map(({ id }) => id));
}

/** SQL of a query of the records that a rule made in a run and to whose field it gave a value; `null` where it never does. */
function assignedSql(
  workspace: LoadedWorkspace,
  {
    maker,
    field,
    run: runId,
  }: { readonly maker: CompiledCreate; readonly field: string; readonly run: string },
  binds: Binds,
): string | null {
  const assigned = maker.assigned.find(({ target }) => target.key === field);
  if (!assigned) return null;
  const source = maker.writes.type;
  const joins = new RouteJoins({
    ...{ schema: workspace, from: source, alias: 's', binds, isKept: keepsField(workspace.plan) },
  });
  const isGiven = assigned.given ? expressionSql(assigned.given, joins, binds) : 'true';
  return `SELECT m.made FROM ${quote(workspace.schema)}._made m JOIN ${tableOf(workspace.schema, source)} s ON s.id = m.source ${joins.sql()}
    WHERE m.run = ${binds.add(runId, 'bigint')} AND m.rule = ${binds.add(maker.id, 'uuid')} AND (${isGiven})`;
}

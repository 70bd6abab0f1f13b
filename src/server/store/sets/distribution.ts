import {
  firstIn,
  Decimal,
  displayValue,
  type Value,
  type ValueType,
  lastIn,
  foundIn,
  itemAt,
} from '@/core/values';
import type { NameOf } from '@/core/expression';
import { fieldIn } from '@/core/model';
import type { CompiledRule } from '@/core/rules';
import type { Spread } from '@/core/api';
import type { Transaction } from 'sequelize';
import { readTitles, Wanted } from '@/server/store/session/titles';
import { differsSql } from '@/server/store/rule-sql/roll-up-sql';
import { Binds, columnOf, makeTable, quote, readColumn, run, tableOf } from '@/server/store/sql/sql';
import { fromColumn } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** Bars of a spread, at most. */
const MOST_BARS = 9;

interface SpreadInput {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly rule: CompiledRule;
  /** As `previewFill` has it. */
  readonly table: string;
  /** How many records change to something that isn't an error. */
  readonly changed: number;
  /** SQL: which rows of the table change; left out, those of a fill that aren't errors. */
  readonly which?: string;
}

/** How what a rule would change is spread over the records that it changes. */
export async function distributionOf(input: SpreadInput): Promise<Spread | null> {
  if (input.changed === 0) return null;
  const { type } = fieldIn(input.workspace.model, input.rule.writes.type, input.rule.writes.field);
  if (type.kind === 'number' || type.kind === 'money') return differences(input, type);
  return input.which === undefined ? changesAlike(input, type) : valuesOf(input, type);
}

const CHANGED = `${differsSql(0)} AND after_error0 IS NULL`;
const DIFFERENCE = 'COALESCE(after0, 0) - COALESCE(before0, 0)';

/** By how much amounts change, an empty one taken as 0: between round edges of the same distance. */
async function differences(
  { transaction, table, which = CHANGED }: SpreadInput,
  type: ValueType,
): Promise<Spread> {
  const ends = firstIn(
    await run<{ least: string; most: string }>(
      transaction,
      `SELECT min(${DIFFERENCE})::text AS least, max(${DIFFERENCE})::text AS most FROM ${table} WHERE ${which}`,
    ),
  );
  const { first, step } = roundEdges(new Decimal(ends.least), new Decimal(ends.most), MOST_BARS - 1);
  const found = await run<{ bar: number; records: number }>(
    transaction,
    `SELECT floor((${DIFFERENCE} - $1::numeric) / $2::numeric)::int AS bar, count(*)::int AS records
      FROM ${table} WHERE ${which} GROUP BY 1 ORDER BY 1`,
    [first.toFixed(), step.toFixed()],
  );
  const at = new Map(found.map(({ bar, records }) => [bar, records]));
  const last = lastIn(found).bar;
  const words = (edge: Decimal) =>
    displayValue(type, type.kind === 'money' ? { amount: edge, currency: type.currency } : edge);
  const bars = Array.from({ length: last + 1 }, (_, bar) => {
    const from = first.plus(step.times(bar));
    return { label: `${words(from)} to ${words(from.plus(step))}`, records: at.get(bar) ?? 0 };
  });
  return { of: 'differences', bars, others: 0 };
}

/** Edges at multiples of 1, 2 or 5 times a power of ten, so that at most so many steps, and one more, lie between two numbers. */
export function roundEdges(least: Decimal, most: Decimal, steps: number): { first: Decimal; step: Decimal } {
  const range = most.minus(least);
  const wanted = range.isZero() ? (least.isZero() ? new Decimal(1) : least.abs()) : range.div(steps);
  const power = new Decimal(10).pow(wanted.log(10).floor());
  const step = power.times(foundIn([1, 2, 5, 10], (of) => power.times(of).gte(wanted)));
  return { first: least.div(step).floor().times(step), step };
}

/** What is alike of the changes of a fill: from what to what, and on how many records. */
async function changesAlike(
  { transaction, workspace, rule, table, changed }: SpreadInput,
  type: ValueType,
): Promise<Spread> {
  const found = await run<{ before: unknown; after: unknown; records: number }>(
    transaction,
    `SELECT ${readColumn(type, 'before0')} AS before, ${readColumn(type, 'after0')} AS after, count(*)::int AS records
      FROM ${table} WHERE ${CHANGED} GROUP BY before0, after0 ORDER BY 3 DESC, 2, 1 LIMIT ${MOST_BARS}`,
  );
  const pairs = found.map(
    ({ before, after }) => [fromColumn(type, before), fromColumn(type, after)] as const,
  );
  const words = await wordsIn({ transaction, workspace, rule }, pairs.flat());
  const bars = found.map(({ records }, at) => {
    const [before, after] = itemAt(pairs, at);
    return { label: `${words(before)} → ${words(after)}`, records };
  });
  return { of: 'changes', bars, others: changed - bars.reduce((sum, { records }) => sum + records, 0) };
}

/** What fields become, and on how many records: of what was handed on, where what stood there isn't read. */
async function valuesOf(
  { transaction, workspace, rule, table, changed, which = CHANGED }: SpreadInput,
  type: ValueType,
): Promise<Spread> {
  const found = await run<{ after: unknown; records: number }>(
    transaction,
    `SELECT ${readColumn(type, 'after0')} AS after, count(*)::int AS records FROM ${table} WHERE ${which}
      GROUP BY after0 ORDER BY 2 DESC, 1 LIMIT ${MOST_BARS}`,
  );
  const values = found.map(({ after }) => fromColumn(type, after));
  const words = await wordsIn({ transaction, workspace, rule }, values);
  const bars = found.map(({ records }, at) => ({ label: words(itemAt(values, at)), records }));
  return { of: 'values', bars, others: changed - bars.reduce((sum, { records }) => sum + records, 0) };
}

let number = 0;

/** A temporary table of what a rule changed in a run over many, with the columns that a spread reads. */
export async function changedIn(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  { writes }: CompiledRule,
  runId: string,
): Promise<string> {
  const { type: kind } = fieldIn(model, writes.type, writes.field);
  const binds = new Binds();
  const field = binds.add(writes.field, 'text');
  const before = `l.changes -> ${field}`;
  const amount =
    kind.kind === 'money'
      ? `(${before} #>> '{0,amount}')::numeric`
      : kind.kind === 'number'
        ? `(${before} ->> 0)::numeric`
        : 'NULL';
  number += 1;
  const name = `handed_${number}`;
  await makeTable(transaction, {
    ...{ name, binds },
    query: `SELECT ${amount} AS before0, t.${columnOf(writes.field)} AS after0
      FROM ${quote(schema)}._ledger l JOIN ${tableOf(schema, writes.type)} t ON t.id = l.record
      WHERE l.run = ${binds.add(runId, 'bigint')} AND l.type = ${binds.add(writes.type, 'text')} AND l.changes ? ${field}`,
  });
  return `pg_temp.${quote(name)}`;
}

/** How values of the field that a rule writes are called; links and people by their names. */
export async function wordsIn(
  { transaction, workspace, rule }: Pick<SpreadInput, 'transaction' | 'workspace' | 'rule'>,
  values: readonly Value[],
): Promise<(value: Value) => string> {
  const { type } = fieldIn(workspace.model, rule.writes.type, rule.writes.field);
  const nameOf = await namesOf(transaction, workspace, type, values);
  return (value) => displayValue(type, value, nameOf);
}

/** What links and people among values of a kind are called. */
export async function namesOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: ValueType,
  values: readonly Value[],
): Promise<NameOf> {
  const wanted = new Wanted();
  if (type.kind === 'link') for (const value of values) wanted.add(type.target, value);
  const titles = await readTitles(transaction, workspace, wanted);
  return (id) => titles[id] ?? workspace.people.get(id);
}

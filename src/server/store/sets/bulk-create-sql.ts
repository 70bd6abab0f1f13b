import { MERGE_ENTRY } from '@/server/store/sql/ledger-merge';
import { firstIn, placesOf, itemAt } from '@/core/values';
import { defaultsOf } from '@/core/engine';
import type { RunContext } from '@/core/expression';
import { type Field, fieldIn, typeIn } from '@/core/model';
import type { CompiledCreate, ExecutionMode } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { keepsField } from '@/server/store/write/keeps-field';
import { wireSql } from './fill';
import { errorSql } from '@/server/store/rule-sql/error-sql';
import { expressionSql } from '@/server/store/rule-sql/expression-sql';
import { assignmentSql } from '@/server/store/rule-sql/assignment-sql';
import { RouteJoins } from '@/server/store/rule-sql/route-joins';
import { takeSerials } from '@/server/store/write/serials';
import {
  Binds,
  bindType,
  columnOf,
  columnType,
  makeTable,
  quote,
  run,
  tableOf,
} from '@/server/store/sql/sql';
import { toColumn } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

export interface MakeSet {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly rule: CompiledCreate;
  /** Who makes the run's change, and when. */
  readonly facts: RunContext;
}

/** What a rule would make for all records that meet its condition now, in a temporary table. */
export interface Prepared {
  readonly table: string;
  /** How many are made by one statement. */
  readonly made: number;
  /** How many wait for a person, or have to be looked at one by one. */
  readonly others: number;
  /** Title of a record on which it can't be told what to make. */
  readonly failed: string | null;
  readonly columns: readonly Field[];
}

let number = 0;

/**
 * Works out by one statement what a rule makes for the records that meet its condition now: of one for each those for which none was made.
 * Records that lack a required value, that have one which is taken, or that a person must approve are told apart: the engine looks at
 * these one by one. Writes a temporary table only.
 */
export async function prepareSet({ transaction, workspace, rule, facts }: MakeSet): Promise<Prepared> {
  const { model, plan, schema } = workspace;
  const source = rule.writes.type;
  const binds = new Binds();
  const joins = new RouteJoins({
    ...{ schema: workspace, from: source, alias: 's', binds, isKept: keepsField(plan) },
  });
  const columns = new Map<string, { field: Field; sql: string }>();
  for (const [key, value] of Object.entries(defaultsOf(model, plan, rule.makes))) {
    const field = fieldIn(model, rule.makes, key);
    columns.set(key, { field, sql: binds.add(toColumn(field.type, value), bindType(field.type)) });
  }
  const errors: string[] = [];
  for (const one of rule.assigned) {
    const { value, error } = assignmentSql(one, joins, binds, facts);
    if (error) errors.push(error);
    const standing = columns.get(one.target.key);
    const sql = isThereSql(workspace, one.target, value);
    columns.set(one.target.key, {
      field: one.target,
      sql: standing ? `COALESCE(${sql}, ${standing.sql})` : sql,
    });
  }
  const { back } = rule.definition;
  if (back !== null) columns.set(back, { field: fieldIn(model, rule.makes, back), sql: 's.id' });
  const fields = [...columns.values()].map(({ field }) => field);
  const { where, writes, definition } = rule;
  const undecided = where ? errorSql(where, joins, binds) : null;
  const way = waySql(rule, binds);
  const conditions = [
    's.deleted_run IS NULL',
    ...(where ? [expressionSql(where, joins, binds)] : []),
    ...(undecided ? [`(${undecided}) IS NULL`] : []),
    ...(definition.each === 'once'
      ? [
          `NOT EXISTS (SELECT FROM ${quote(schema)}._made m WHERE m.rule = ${binds.add(rule.id, 'uuid')} AND m.source = s.id)`,
          ...(writes.field === '' ? [] : [`s.${columnOf(writes.field)} IS NULL`]),
        ]
      : []),
  ];
  const values = [...columns.values()].map(({ sql, field }, at) => `, (${sql})::${typeSql(field)} AS v${at}`);
  const error = errors.length > 0 ? `COALESCE(${errors.join(', ')})` : 'NULL::text';
  const lacking = lackingSql(workspace, rule, fields);
  const query = `SELECT w.*, w.way = 'directly' AND NOT (${lacking}) AS is_made FROM (
      SELECT s.id AS source, ${way} AS way, ${error} AS failed${values.join('')}
      FROM ${tableOf(schema, source)} s ${joins.sql()} WHERE ${conditions.join(' AND ')}
    ) w WHERE w.way <> 'not' ORDER BY w.source`;
  number += 1;
  const table = `making_${number}`;
  await makeTable(transaction, { name: table, query, binds });
  const title = columnOf(typeIn(model, source).title);
  const counted = firstIn(
    await run<{ made: number; others: number; failed: string | null }>(
      transaction,
      `SELECT (count(*) FILTER (WHERE is_made))::int AS made, (count(*) FILTER (WHERE NOT is_made))::int AS others,
       (SELECT s.${title}::text FROM pg_temp.${quote(table)} f JOIN ${tableOf(schema, source)} s ON s.id = f.source WHERE f.failed IS NOT NULL ORDER BY f.source LIMIT 1) AS failed
     FROM pg_temp.${quote(table)}`,
    ),
  );
  return { table, columns: fields, ...counted };
}

/** Whether what would be made lacks a required value, or has one that another record has, or that two of those have that would be made. */
function lackingSql(
  { model, schema }: LoadedWorkspace,
  rule: CompiledCreate,
  columns: readonly Field[],
): string {
  const { fields, openLinks = [] } = typeIn(model, rule.makes);
  const valueOf = (key: string) => {
    const at = columns.findIndex((field) => field.key === key);
    return at < 0 ? 'NULL' : `w.v${at}`;
  };
  const lacking = [
    ...fields
      .filter(({ required, type }) => required && type.kind !== 'serial')
      .map(({ key }) => `${valueOf(key)} IS NULL`),
    ...openLinks
      .filter(({ required }) => required)
      .map(({ links }) => links.map((link) => `${valueOf(link)} IS NULL`).join(' AND ')),
    ...columns
      .filter(({ unique }) => unique)
      .map(({ key }) => {
        const value = valueOf(key);
        const isTaken = `EXISTS (SELECT FROM ${tableOf(schema, rule.makes)} x WHERE x.${columnOf(key)} = ${value} AND x.deleted_run IS NULL)`;
        return `${value} IS NOT NULL AND (${isTaken} OR count(*) OVER (PARTITION BY ${value}) > 1)`;
      }),
  ];
  return lacking.length > 0 ? lacking.map((sql) => `(${sql})`).join(' OR ') : 'false';
}

const typeSql = ({ type }: Field): string => columnType(type, placesOf(type) ?? 0);

/** A link that would name a record in the bin names none. */
function isThereSql({ schema }: LoadedWorkspace, { type }: Field, sql: string): string {
  if (type.kind !== 'link') return sql;
  return `(SELECT x.id FROM ${tableOf(schema, type.target)} x WHERE x.id = ${sql} AND x.deleted_run IS NULL)`;
}

/** The way that a record's option gives. */
function waySql({ making: { field, rows, otherwise } }: CompiledCreate, binds: Binds): string {
  const word = (way: ExecutionMode) => binds.add(way, 'text');
  if (!field || rows.length === 0) return word(otherwise);
  const cases = rows.map(
    ({ from, way }) =>
      `WHEN s.${columnOf(field.key)} IS NOT DISTINCT FROM ${binds.add(toColumn(field.type, from), bindType(field.type))} THEN ${word(way)}`,
  );
  return `(CASE ${cases.join(' ')} ELSE ${word(otherwise)} END)`;
}

/** Titles of the first that would be made, or of the records for which they would be. */
export async function titlesOf(
  { transaction, workspace: { model, schema }, rule }: Omit<MakeSet, 'facts'>,
  { table, columns }: Prepared,
  most: number,
): Promise<string[]> {
  const at = columns.findIndex(({ key }) => key === typeIn(model, rule.makes).title);
  const named = `s.${columnOf(typeIn(model, rule.writes.type).title)}`;
  const found = await run<{ title: string }>(
    transaction,
    `SELECT ${at < 0 ? named : `COALESCE(f.v${at}, ${named})`}::text AS title
      FROM pg_temp.${quote(table)} f JOIN ${tableOf(schema, rule.writes.type)} s ON s.id = f.source ORDER BY f.source LIMIT ${most}`,
  );
  return found.map(({ title }) => title);
}

/** The records for which what was prepared has to be looked at one by one. */
export async function othersOf(transaction: Transaction, { table }: Prepared): Promise<string[]> {
  const found = await run<{ source: string }>(
    transaction,
    `SELECT source::text FROM pg_temp.${quote(table)} WHERE NOT is_made ORDER BY source`,
  );
  return found.map(({ source }) => source);
}

/**
 * Makes what was prepared, with its serial numbers in the order of the records that it is for; these name what was made, and are given what
 * it gives, with their ledger. Nobody else saves meanwhile.
 */
export async function makeSet(input: MakeSet, prepared: Prepared, runId: string): Promise<void> {
  const { transaction, workspace, rule } = input;
  const { schema, model } = workspace;
  const { table, columns, made } = prepared;
  if (made === 0) return;
  const from = `pg_temp.${quote(table)}`;
  await run(transaction, `ALTER TABLE ${from} ADD COLUMN made uuid, ADD COLUMN at bigint`);
  await run(
    transaction,
    `UPDATE ${from} f SET made = ${newIdSql('n.at')}, at = n.at
      FROM (SELECT source, row_number() OVER (ORDER BY source) - 1 AS at FROM ${from} WHERE is_made) n WHERE n.source = f.source`,
  );
  const binds = new Binds();
  const serials = typeIn(model, rule.makes).fields.filter(({ type }) => type.kind === 'serial');
  const numbers: string[] = [];
  for (const { key } of serials) {
    const first = await takeSerials(transaction, schema, { type: rule.makes, field: key, count: made });
    numbers.push(`${binds.add(first, 'bigint')} + f.at`);
  }
  const named = [...columns, ...serials].map(({ key }) => columnOf(key));
  const values = [...columns.map((_, at) => `f.v${at}`), ...numbers];
  const inRun = binds.add(runId, 'bigint');
  const [id, version] = [binds.add(rule.id, 'uuid'), binds.add(rule.version, 'uuid')];
  const source = binds.add(rule.writes.type, 'text');
  await run(
    transaction,
    `WITH made AS (
      INSERT INTO ${tableOf(schema, rule.makes)} (${['id', ...named, 'created_run', 'changed_run'].join(', ')})
        SELECT ${['f.made', ...values, inRun, inRun].join(', ')} FROM ${from} f WHERE f.is_made ORDER BY f.at
    )
    INSERT INTO ${quote(schema)}._made (rule, version, source_type, source, made, is_once, wave, run)
      SELECT ${id}, ${version}, ${source}, f.source, f.made, ${binds.add(rule.definition.each === 'once', 'boolean')}, 1, ${inRun} FROM ${from} f WHERE f.is_made`,
    binds.values,
  );
  await nameMade(input, prepared, runId);
}

/** Time-ordered ids (version 7 of RFC 9562), in the order of a number from 0. */
const newIdSql = (at: string): string =>
  `(lpad(to_hex((extract(epoch FROM transaction_timestamp()) * 1000)::bigint + ${at} / 4096), 12, '0')
    || '7' || lpad(to_hex(${at} % 4096), 3, '0') || substr(replace(gen_random_uuid()::text, '-', ''), 17))::uuid`;

/** The records for which others were made name them, and are given what they give. */
async function nameMade(
  { transaction, workspace, rule, facts }: MakeSet,
  { table }: Prepared,
  runId: string,
) {
  const { model, plan, schema } = workspace;
  const { type, field } = rule.writes;
  if (field === '' && rule.given.length === 0) return;
  const binds = new Binds();
  const joins = new RouteJoins({
    ...{ schema: workspace, from: rule.makes, alias: 'm', binds, isKept: keepsField(plan) },
  });
  const given = [
    ...(field === '' ? [] : [{ target: fieldIn(model, type, field), value: 'm.id' }]),
    ...rule.given.map((one) => {
      const { value, error, isGiven } = assignmentSql(one, joins, binds, facts);
      const had = `s.${columnOf(one.target.key)}`;
      const isWritten = [...(isGiven ? [isGiven] : []), ...(error ? [`${error} IS NULL`] : [])].join(' AND ');
      return {
        target: one.target,
        value: isWritten ? `CASE WHEN ${isWritten} THEN ${value} ELSE ${had} END` : value,
      };
    }),
  ];
  const keys = given.map(({ target }) => binds.add(target.key, 'text'));
  const object = (of: (at: number) => string) =>
    `jsonb_strip_nulls(jsonb_build_object(${given.map((_, at) => `${itemAt(keys, at)}, CASE WHEN d.a${at} IS DISTINCT FROM d.b${at} THEN ${of(at)} END`).join(', ')}))`;
  const change = (at: number) => {
    const { type: kind } = itemAt(given, at).target;
    return `jsonb_build_array(${wireSql(kind, `d.b${at}`)}, ${wireSql(kind, `d.a${at}`)})`;
  };
  const cause = `jsonb_build_array(jsonb_build_object('type', ${binds.add(rule.makes, 'text')}, 'id', d.made, 'field', ''))`;
  const told = `jsonb_build_object('wave', 2, 'ruleVersion', ${binds.add(rule.version, 'text')}, 'causes', ${cause})`;
  const inRun = binds.add(runId, 'bigint');
  const differs = given.map((_, at) => `p.a${at} IS DISTINCT FROM p.b${at}`).join(' OR ');
  await run(
    transaction,
    `WITH paired AS (
      SELECT s.id, s.created_run, m.id AS made,
        ${given.map(({ target, value }, at) => `s.${columnOf(target.key)} AS b${at}, (${value})::${typeSql(target)} AS a${at}`).join(', ')}
      FROM pg_temp.${quote(table)} f JOIN ${tableOf(schema, type)} s ON s.id = f.source
        JOIN ${tableOf(schema, rule.makes)} m ON m.id = f.made ${joins.sql()} WHERE f.is_made
    ), differing AS MATERIALIZED (SELECT p.* FROM paired p WHERE ${differs}),
    updated AS (
      UPDATE ${tableOf(schema, type)} t SET ${given.map(({ target }, at) => `${columnOf(target.key)} = d.a${at}`).join(', ')}, changed_run = ${inRun}
        FROM differing d WHERE t.id = d.id
    )
    INSERT INTO ${quote(schema)}._ledger AS l (run, type, record, event, changes, sources)
      SELECT ${inRun}, ${binds.add(type, 'text')}, d.id, 'changed', ${object(change)}, ${object(() => told)} FROM differing d WHERE d.created_run <> ${inRun}${MERGE_ENTRY}`,
    binds.values,
  );
}

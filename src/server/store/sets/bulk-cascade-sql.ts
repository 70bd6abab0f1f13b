import { MERGE_ENTRY } from '@/server/store/sql/ledger-merge';
import type { Answers, BulkAssignment } from '@/core/engine';
import type { StepDown } from '@/core/model';
import { placesOf, firstIn, itemAt } from '@/core/values';
import type { Transaction } from 'sequelize';
import { errorSql } from '@/server/store/rule-sql/error-sql';
import { expressionSql } from '@/server/store/rule-sql/expression-sql';
import { wireSql } from './fill';
import { membersSql, RouteJoins } from '@/server/store/rule-sql/route-joins';
import { Binds, columnOf, columnType, quote, run, type Schema, tableOf } from '@/server/store/sql/sql';
import { toColumn } from '@/server/store/sql/columns';

export interface BulkCascadeSet {
  readonly transaction: Transaction;
  readonly schema: Schema;
  readonly run: string;
  /** All that one rule cascades: over the same route, under the same condition. */
  readonly parts: readonly BulkAssignment[];
  readonly isKept: (type: string, field: string) => boolean;
  /** Which records took what each part gives, written or not, is told. */
  readonly tellsTaken?: boolean;
}

/**
 * Writes what sources cascade to all beneath them, with its ledger, in one statement: each source cascades one value, so its children are
 * joined with it. Those that have the value aren't written. Answers for each part how many values it wrote. Nobody else saves meanwhile.
 */
export async function bulkCascadeSet({
  transaction,
  schema,
  run: runId,
  parts,
  isKept,
  tellsTaken = false,
}: BulkCascadeSet): Promise<Answers['bulkCascade']> {
  const [{ rule: first }] = parts as [BulkAssignment];
  const { type } = first.writes;
  const binds = new Binds();
  const members = membersSql(schema, first.route as readonly StepDown[]);
  const joins = new RouteJoins({ schema, from: type, alias: members.alias, binds, isKept });
  const condition = first.condition ? expressionSql(first.condition, joins, binds) : 'true';
  const error = first.condition ? errorSql(first.condition, joins, binds) : null;
  const given = givenSql(parts, binds);
  const found = parts.map(({ rule, except }, at) => {
    const column = `${members.alias}.${columnOf(rule.writes.field)}`;
    const only =
      rule.only === 'all'
        ? []
        : rule.only === 'empty'
          ? [`${column} IS NULL`]
          : [`${column} IS NOT DISTINCT FROM ${given.was(at)}`];
    const outranked = except.length > 0 ? `${members.alias}.id = ANY(${binds.add(except, 'uuid[]')})` : null;
    const asks = [...given.ok(at), ...only];
    const takes = [...asks, ...(outranked ? [`NOT ${outranked}`] : [])];
    const overruled = outranked
      ? `, COALESCE(${[outranked, ...asks].join(' AND ')}, false) AND ${given.value(at)} IS DISTINCT FROM ${column} AS overruled${at}`
      : '';
    const after =
      takes.length > 0
        ? `CASE WHEN ${takes.join(' AND ')} THEN ${given.value(at)} ELSE ${column} END`
        : given.value(at);
    const taken = tellsTaken
      ? `, ${takes.length > 0 ? `COALESCE(${takes.join(' AND ')}, false)` : 'true'} AS takes${at}`
      : '';
    return `${column} AS before${at}, ${after} AS after${at}${taken}${overruled}`;
  });
  const differs = parts.map((_, at) => `after${at} IS DISTINCT FROM before${at}`);
  const number = binds.add(runId, 'bigint');
  const named = binds.add(type, 'text');
  const s = quote(schema.schema);
  const keys = parts.map(({ rule }) => binds.add(rule.writes.field, 'text'));
  const object = (of: (at: number) => string) =>
    parts.length === 1
      ? `jsonb_build_object(${firstIn(keys)}, ${of(0)})`
      : `jsonb_strip_nulls(jsonb_build_object(${parts.map((_, at) => `${itemAt(keys, at)}, CASE WHEN d.differs${at} THEN ${of(at)} END`).join(', ')}))`;
  const change = (at: number) => {
    const { type: kind } = itemAt(parts, at).rule.target;
    return `jsonb_build_array(${wireSql(kind, `d.before${at}`)}, ${wireSql(kind, `d.after${at}`)})`;
  };
  const version = binds.add(first.version, 'text');
  const source = () => `jsonb_build_object('wave', 1, 'ruleVersion', ${version}, 'causes', d.causes)`;
  const text = `
    WITH ${given.with}found AS (
      SELECT ${members.alias}.id, ${members.alias}.created_run, ${given.causes} AS causes, ${error ? `${error} AS failed` : 'NULL::text AS failed'}, ${found.join(', ')}
      FROM ${members.from} ${given.join(members.parent)} ${joins.sql()}
      WHERE ${given.among(members.parent)}${members.alias}.deleted_run IS NULL AND (${condition}${error ? ` OR (${error}) IS NOT NULL` : ''})
    ),
    differing AS MATERIALIZED (
      SELECT f.*, ${differs.map((sql, at) => `${sql} AS differs${at}`).join(', ')} FROM found f WHERE f.failed IS NULL AND (${differs.join(' OR ')})
    ),
    updated AS (
      UPDATE ${tableOf(schema.schema, type)} t SET ${parts.map(({ rule }, at) => `${columnOf(rule.writes.field)} = d.after${at}`).join(', ')}, changed_run = ${number}
      FROM differing d WHERE t.id = d.id
    ),
    logged AS (
      INSERT INTO ${s}._ledger AS l (run, type, record, event, changes, sources)
        SELECT ${number}, ${named}, d.id, 'changed', ${object(change)}, ${object(source)} FROM differing d WHERE d.created_run <> ${number}${MERGE_ENTRY}
    )
    SELECT ${parts.map((_, at) => `(count(*) FILTER (WHERE differs${at}))::int AS written${at}`).join(', ')},
      ${parts.map(({ except }, at) => (except.length > 0 ? `(SELECT count(*)::int FROM found f WHERE f.failed IS NULL AND f.overruled${at}) AS overruled${at},` : '')).join(' ')}
      ${tellsTaken ? parts.map((_, at) => `(SELECT array_agg(f.id::text) FROM found f WHERE f.failed IS NULL AND f.takes${at}) AS taken${at},`).join(' ') : ''}
      ${error ? '(SELECT f.id::text FROM found f WHERE f.failed IS NOT NULL LIMIT 1)' : 'NULL::text'} AS failed FROM differing`;
  const row = firstIn(await run<Record<string, unknown>>(transaction, text, binds.values));
  if (row.failed) throw new CascadeFailed(row.failed as string);
  return {
    counts: parts.map((_, at) => row[`written${at}`] as number),
    overruled: parts.map((_, at) => (row[`overruled${at}`] as number | undefined) ?? 0),
    taken: parts.map((_, at) => (row[`taken${at}`] as string[] | null | undefined) ?? []),
  };
}

/** A record on which it can't be told whether it takes something. */
export class CascadeFailed extends Error {
  constructor(readonly id: string) {
    super('A condition can’t be told');
  }
}

/** How the values of the sources stand in the statement. */
interface GivenSql {
  readonly with: string;
  readonly join: (parent: string) => string;
  readonly among: (parent: string) => string;
  readonly causes: string;
  /** By number of the part: whether it cascades anything, where that isn't sure; what; and what it would have before. */
  readonly ok: (at: number) => readonly string[];
  readonly value: (at: number) => string;
  readonly was: (at: number) => string;
}

/** Values of one source are bound by themselves, so that its children are found by an index and compared as they are read. */
function givenSql(parts: readonly BulkAssignment[], binds: Binds): GivenSql {
  const kinds = parts.map(({ rule }) => columnType(rule.target.type, placesOf(rule.target.type) ?? 0));
  const rows = givenRows(parts);
  const [only] = rows;
  if (only && rows.length === 1) {
    return {
      ...{ with: '', join: () => '' },
      among: (parent) => `${parent} = ${binds.add(only.source, 'uuid')} AND `,
      causes: binds.add(JSON.stringify(only.causes), 'jsonb'),
      ok: (at) => (only[`ok${at}`] === true ? [] : ['false']),
      value: (at) => binds.add(only[`v${at}`], itemAt(kinds, at)),
      was: (at) => binds.add(only[`was${at}`], itemAt(kinds, at)),
    };
  }
  const columns = kinds.map((kind, at) => `ok${at} boolean, v${at} ${kind}, was${at} ${kind}`);
  const document = binds.add(JSON.stringify(rows), 'jsonb');
  return {
    with: `given AS (SELECT * FROM jsonb_to_recordset(${document}) AS x(source uuid, causes jsonb, ${columns.join(', ')})), `,
    join: (parent) => `JOIN given g ON g.source = ${parent}`,
    among: () => '',
    ...{ causes: 'g.causes', ok: (at) => [`g.ok${at}`] },
    ...{ value: (at) => `g.v${at}`, was: (at) => `g.was${at}` },
  };
}

/** One row for each source: what it cascades by each part. */
function givenRows(parts: readonly BulkAssignment[]): Record<string, unknown>[] {
  const [first] = parts as [BulkAssignment];
  return [...first.given.keys()].map((source) => {
    const row: Record<string, unknown> = { source, causes: [] };
    parts.forEach(({ rule, given }, at) => {
      const handed = given.get(source) ?? null;
      if (handed) row.causes = handed.causes;
      row[`ok${at}`] = handed !== null;
      row[`v${at}`] = handed && toColumn(rule.target.type, handed.value);
      row[`was${at}`] = handed && toColumn(rule.target.type, handed.was);
    });
    return row;
  });
}

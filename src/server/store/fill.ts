import type { CompiledRollUp } from '@/core/rules';
import type { ValueType } from '@/core/values';
import { fieldIn } from '@/core/model';
import { type Transaction } from 'sequelize';
import { DIFFERS, rollUpSql } from './roll-up-sql';
import { Binds, columnOf, quote, readColumn, run, type Schema, tableOf } from './sql';

export interface FillInput {
  readonly transaction: Transaction;
  readonly schema: Schema;
  readonly rule: CompiledRollUp;
  readonly run: string;
  readonly isKept: (type: string, field: string) => boolean;
}

/**
 * Fills the target of a rule on every record, in one set-based statement that also writes the ledger and the problems.
 * Records that already have the value aren't written. Answers how many were.
 */
export async function fillRule({
  transaction,
  schema,
  rule,
  run: runId,
  isKept,
}: FillInput): Promise<number> {
  const binds = new Binds();
  const worked = rollUpSql({ schema, rule, binds, isKept });
  const { type, field } = rule.writes;
  const { type: valueType } = fieldIn(schema.model, type, field);
  const s = quote(schema.schema);
  const place = {
    run: binds.add(runId, 'bigint'),
    type: binds.add(type, 'text'),
    field: binds.add(field, 'text'),
    rule: binds.add(rule.id, 'uuid'),
  };
  const source = binds.add(
    JSON.stringify({ [field]: { wave: 1, ruleVersion: rule.version, causes: [] } }),
    'jsonb',
  );
  const text = `
    WITH differing AS MATERIALIZED (SELECT * FROM (${worked}) w WHERE ${DIFFERS}),
    updated AS (
      UPDATE ${tableOf(schema.schema, type)} t SET ${columnOf(field)} = d.after, changed_run = ${place.run} FROM differing d WHERE t.id = d.id
    ),
    cleared AS (
      DELETE FROM ${s}.problem p USING differing d WHERE p.record = d.id AND p.field = ${place.field} AND d.after_error IS NULL
    ),
    raised AS (
      INSERT INTO ${s}.problem (type, record, field, rule, code, run)
        SELECT ${place.type}, d.id, ${place.field}, ${place.rule}, d.after_error, ${place.run} FROM differing d WHERE d.after_error IS NOT NULL
        ON CONFLICT (record, field) DO UPDATE SET rule = excluded.rule, code = excluded.code, run = excluded.run
    ),
    logged AS (
      INSERT INTO ${s}.ledger AS l (run, type, record, event, changes, sources)
        SELECT ${place.run}, ${place.type}, d.id, 'changed',
          jsonb_build_object(${place.field}, jsonb_build_array(${wireSql(valueType, 'd.before')}, ${wireSql(valueType, 'd.after')})), ${source}
        FROM differing d
        ON CONFLICT (type, record, run) DO UPDATE SET changes = l.changes || excluded.changes, sources = l.sources || excluded.sources
    )
    SELECT count(*)::int AS written FROM differing`;
  const [row] = await run<{ written: number }>(transaction, text, binds.values);
  return row!.written;
}

/** A column in the form in which it travels; the ledger holds the same from SQL as from the core. */
function wireSql(type: ValueType, sql: string): string {
  if (type.kind === 'money') {
    return `CASE WHEN ${sql} IS NULL THEN NULL ELSE jsonb_build_object('amount', ${sql}::text, 'currency', '${type.currency}') END`;
  }
  return type.kind === 'rating' ? sql : readColumn(type, sql);
}

/** What taking a rule live would change, for one rule of the chain that follows from it. */
export interface FillPreview {
  readonly rule: string;
  readonly total: number;
  readonly changed: number;
  readonly inError: number;
  /** The largest differences first (for dates, in days); values as they are read from their columns. */
  readonly largest: readonly {
    readonly id: string;
    readonly title: string;
    readonly before: unknown;
    readonly after: unknown;
    readonly error: string | null;
  }[];
}

export interface PreviewInput extends Omit<FillInput, 'run' | 'rule'> {
  /** The rule that would go live, and after it those that read what it writes, in the plan's order. */
  readonly rules: readonly CompiledRollUp[];
  readonly most: number;
}

/** Works rules out over the whole data without writing anything; each reads what those before it would write. */
export async function previewFill({
  transaction,
  schema,
  rules,
  isKept,
  most,
}: PreviewInput): Promise<FillPreview[]> {
  const previews: FillPreview[] = [];
  for (const [index, rule] of rules.entries()) {
    const binds = new Binds();
    const instead = new Map<string, string>();
    const queries = rules.slice(0, index + 1).map((earlier, position) => {
      const sql = `r${position} AS MATERIALIZED (${rollUpSql({ schema, rule: earlier, binds, isKept, instead })})`;
      instead.set(`${earlier.writes.type}.${earlier.writes.field}`, `r${position}`);
      return sql;
    });
    previews.push(
      await previewOne({
        transaction,
        schema,
        rule,
        binds,
        most,
        withClause: queries.join(', '),
        name: `r${index}`,
      }),
    );
  }
  return previews;
}

interface PreviewOne {
  readonly transaction: Transaction;
  readonly schema: Schema;
  readonly rule: CompiledRollUp;
  readonly binds: Binds;
  readonly most: number;
  readonly withClause: string;
  readonly name: string;
}

async function previewOne({
  transaction,
  schema,
  rule,
  binds,
  most,
  withClause,
  name,
}: PreviewOne): Promise<FillPreview> {
  const { type } = fieldIn(schema.model, rule.writes.type, rule.writes.field);
  const title = columnOf(schema.model.type(rule.writes.type)!.title);
  const isAmount = ['number', 'money', 'rating', 'date'].includes(type.kind);
  const size = isAmount
    ? `abs(COALESCE(${sizeSql(type, 'after')}, 0) - COALESCE(${sizeSql(type, 'before')}, 0)) DESC,`
    : '';
  const text = `
    WITH ${withClause},
    counts AS (SELECT count(*)::int AS total, (count(*) FILTER (WHERE ${DIFFERS}))::int AS changed, (count(*) FILTER (WHERE after_error IS NOT NULL))::int AS in_error FROM ${name})
    SELECT c.total, c.changed, c.in_error, l.* FROM counts c LEFT JOIN LATERAL (
      SELECT w.id::text, t.${title} AS title, ${readColumn(type, 'w.before')} AS before, ${readColumn(type, 'w.after')} AS after, w.after_error AS error
      FROM ${name} w JOIN ${tableOf(schema.schema, rule.writes.type)} t ON t.id = w.id
      WHERE ${DIFFERS} ORDER BY ${size} w.id LIMIT ${binds.add(most, 'int')}
    ) l ON true`;
  interface Found {
    total: number;
    changed: number;
    in_error: number;
    id: string | null;
    title: string;
    before: unknown;
    after: unknown;
    error: string | null;
  }
  const rows = await run<Found>(transaction, text, binds.values);
  const { total, changed, in_error: inError } = rows[0]!;
  const largest = rows.flatMap(({ id, title: named, before, after, error }) =>
    id === null ? [] : [{ id, title: named, before, after, error }],
  );
  return { rule: rule.id, total, changed, inError, largest };
}

const sizeSql = (type: ValueType, sql: string): string =>
  type.kind === 'date' ? `(${sql} - DATE '2000-01-01')` : sql;

import { firstIn, lastIn, type ValueType } from '@/core/values';
import { type CompiledRule, isReacting } from '@/core/rules';
import { fieldIn, typeIn } from '@/core/model';
import type { Transaction } from 'sequelize';
import { type FillInput, handsDownOf, levelsInOrder } from './fill';
import { differsSql, rollUpSql } from '@/server/store/rule-sql/roll-up-sql';
import {
  Binds,
  columnOf,
  makeTable,
  quote,
  readColumn,
  run,
  type Schema,
  tableOf,
} from '@/server/store/sql/sql';

/** What taking a rule live would change, for one rule of the chain that follows from it. */
export interface FillPreview {
  readonly rule: string;
  readonly total: number;
  readonly changed: number;
  readonly inError: number;
  /** The table of what was worked out, with `id`, `before0`, `after0` and `after_error0`; it goes with the transaction. */
  readonly table: string;
  /** The largest differences first (for dates, in days); values as they are read from their columns. */
  readonly largest: readonly {
    readonly id: string;
    readonly title: string;
    readonly before: unknown;
    readonly after: unknown;
    readonly error: string | null;
  }[];
}

export interface PreviewInput extends Omit<FillInput, 'run' | 'targets'> {
  /** The rule that would go live, and after it those that read what it writes, in the plan's order. */
  readonly rules: readonly CompiledRule[];
  readonly most: number;
}

/** Numbers the tables, so that each statement's text is its own. */
let number = 0;

/** Works rules out over the whole data without writing anything but temporary tables; each reads what those before it would write. */
export async function previewFill({
  transaction,
  schema,
  rules,
  isKept,
  most,
}: PreviewInput): Promise<FillPreview[]> {
  const previews: FillPreview[] = [];
  const instead = new Map<string, string>();
  for (const rule of rules) {
    number += 1;
    const name = `pg_temp.${quote(`preview_${number}`)}`;
    const { type, field } = rule.writes;
    const worked = (targets?: string) => {
      const binds = new Binds();
      const only = targets === undefined ? {} : { targets };
      const query = rollUpSql({
        ...{ schema, rules: [rule], binds, isKept, instead, ...only },
        ...(isReacting(rule) && rule === rules[0] ? { acting: 'onAll' as const } : {}),
      });
      return { name: `preview_${number}`, query, binds };
    };
    if (rule.recursion || handsDownOf(rule)) {
      await makeTable(transaction, { ...worked(), isEmpty: true });
      await run(transaction, `ALTER TABLE ${name} ADD PRIMARY KEY (id)`);
      instead.set(`${type}.${field}`, name);
      for (const level of await levelsInOrder({ transaction, schema }, rule)) {
        const { query, binds } = worked(level);
        await run(transaction, `INSERT INTO ${name} ${query}`, binds.values);
      }
    } else {
      await makeTable(transaction, worked());
      instead.set(`${type}.${field}`, name);
    }
    previews.push(await previewOne({ transaction, schema, rule, most, name }));
  }
  return previews;
}

interface PreviewOne {
  readonly transaction: Transaction;
  readonly schema: Schema;
  readonly rule: CompiledRule;
  readonly most: number;
  /** The table of what was worked out. */
  readonly name: string;
}

async function previewOne({ transaction, schema, rule, most, name }: PreviewOne): Promise<FillPreview> {
  const { type } = fieldIn(schema.model, rule.writes.type, rule.writes.field);
  const binds = new Binds();
  const title = columnOf(typeIn(schema.model, rule.writes.type).title);
  const isAmount = ['number', 'money', 'rating', 'date'].includes(type.kind);
  const size = isAmount
    ? `abs(COALESCE(${sizeSql(type, 'after0')}, 0) - COALESCE(${sizeSql(type, 'before0')}, 0)) DESC,`
    : '';
  const text = `
    WITH counts AS (SELECT count(*)::int AS total, (count(*) FILTER (WHERE ${differsSql(0)}))::int AS changed, (count(*) FILTER (WHERE after_error0 IS NOT NULL))::int AS in_error FROM ${name})
    SELECT c.total, c.changed, c.in_error, l.* FROM counts c LEFT JOIN LATERAL (
      SELECT w.id::text, t.${title} AS title, ${readColumn(type, 'w.before0')} AS before, ${readColumn(type, 'w.after0')} AS after, w.after_error0 AS error
      FROM ${name} w JOIN ${tableOf(schema.schema, rule.writes.type)} t ON t.id = w.id
      WHERE ${differsSql(0)} ORDER BY ${size} w.id LIMIT ${binds.add(most, 'int')}
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
  const { total, changed, in_error: inError } = firstIn(rows);
  const largest = rows.flatMap(({ id, title: named, before, after, error }) =>
    id === null ? [] : [{ id, title: named, before, after, error }],
  );
  return { rule: rule.id, total, changed, inError, table: name, largest };
}

const sizeSql = (type: ValueType, sql: string): string =>
  type.kind === 'date' ? `(${sql} - DATE '2000-01-01')` : sql;

/** A change that a rule would make, with the values as they are read from their columns. */
export interface Previewed {
  readonly id: string;
  readonly title: string;
  readonly before: unknown;
  readonly after: unknown;
  readonly error: string | null;
}

/** All that a rule would change, by the records' ids, in pages of so many. */
export async function* previewedChanges(
  {
    transaction,
    schema,
    rule,
    table,
  }: Pick<PreviewOne, 'transaction' | 'schema' | 'rule'> & { readonly table: string },
  page: number,
): AsyncGenerator<readonly Previewed[]> {
  const { type } = fieldIn(schema.model, rule.writes.type, rule.writes.field);
  const title = columnOf(typeIn(schema.model, rule.writes.type).title);
  for (let after: string | null = null; ;) {
    const found: Previewed[] = await run<Previewed>(
      transaction,
      `SELECT w.id::text, t.${title} AS title, ${readColumn(type, 'w.before0')} AS before, ${readColumn(type, 'w.after0')} AS after, w.after_error0 AS error
        FROM ${table} w JOIN ${tableOf(schema.schema, rule.writes.type)} t ON t.id = w.id
        WHERE ${differsSql(0)} AND ($1::uuid IS NULL OR w.id > $1::uuid) ORDER BY w.id LIMIT ${page}`,
      [after],
    );
    if (found.length > 0) yield found;
    if (found.length < page) return;
    after = lastIn(found).id;
  }
}

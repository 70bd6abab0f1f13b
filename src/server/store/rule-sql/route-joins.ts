import { certain, lastIn } from '@/core/values';
import {
  RATE_DAYS,
  RECORD_ITSELF,
  type TypedExchange,
  type TypedField,
  type TypedGather,
} from '@/core/expression';
import type { Leading } from '@/core/syntax/expression';
import { type StepDown, typeUp } from '@/core/model';
import { errorSql } from './error-sql';
import { expressionSql, orderKeySql, rankedSql } from './expression-sql';
import type { Gathered, Reads } from './sql-reader';
import { gatheredSql } from './value-sql';
import { columnOf, type Schema, tableOf, type ValuePlaces } from '@/server/store/sql/sql';

export interface RouteInput {
  /** Stands before the names of joined tables, so that those of a query within another are told apart. */
  readonly prefix?: string;
  readonly schema: Schema;
  /** The type of the records at hand, and their alias in the statement. */
  readonly from: string;
  readonly alias: string;
  readonly binds: ValuePlaces;
  /** Fields that rules keep: they may be in error. */
  readonly isKept: (type: string, field: string) => boolean;
  /** Names of earlier queries of the same statement that give a field another value: `exhibition.artefactCount` → `r1`. */
  readonly instead?: ReadonlyMap<string, string>;
}

/** The tables that are read besides the records at hand: records up the routes, those beneath, and values given instead. */
export class RouteJoins implements Reads {
  readonly #joins = new Map<string, string>();
  readonly #gathered = new Map<TypedGather, Gathered>();

  constructor(private readonly input: RouteInput) {}

  sql(): string {
    return [...this.#joins.values()].join('\n');
  }

  /** The SQL of a field's value. */
  read(field: TypedField): string {
    const alias = this.alias(field.route);
    if (field.field === RECORD_ITSELF) return `${alias}.id`;
    const instead = this.input.instead?.get(`${field.owner}.${field.field}`);
    return instead ? `${this.insteadOf(alias, instead)}.after0` : `${alias}.${columnOf(field.field)}`;
  }

  /** The SQL of whether a field is in error, or null when no rule keeps it. */
  error(field: TypedField): string | null {
    if (!this.input.isKept(field.owner, field.field)) return null;
    const alias = this.alias(field.route);
    const instead = this.input.instead?.get(`${field.owner}.${field.field}`);
    if (instead) return `(${this.insteadOf(alias, instead)}.after_error0 IS NOT NULL)`;
    return `(${alias}.problems ->> ${this.input.binds.add(field.field, 'text')} IS NOT NULL)`;
  }

  /** What records beneath come to, as a query within the statement. */
  gather(node: TypedGather): Gathered {
    const known = this.#gathered.get(node);
    if (known) return known;
    const { schema } = this.input;
    const prefix = `${this.input.prefix ?? ''}g${this.#gathered.size}_`;
    const { from, parent, alias } = membersSql(schema, node.down, { prefix });
    const inner = new RouteJoins({ ...this.input, from: node.member, alias, prefix });
    const where = (joins: string) =>
      `FROM ${from} ${joins} WHERE ${alias}.deleted_run IS NULL AND ${parent} = ${this.alias(node.up)}.id`;
    const gathered = node.leading
      ? this.leading(node, node.leading, inner, where)
      : this.brought(node, inner, where);
    this.#gathered.set(node, gathered);
    return gathered;
  }

  private brought(node: TypedGather, inner: RouteJoins, where: (joins: string) => string): Gathered {
    const { condition, value, failing } = partsOf(node, inner, this.input.binds);
    const ranked = (sql: string, end: 'min' | 'max') =>
      rankedSql(certain(node.value).type, sql, end, this.input.binds);
    const made = gatheredSql(node, value, ranked);
    const of = where(inner.sql());
    const either = [failing.test, failing.value && `(CASE WHEN ${condition} THEN ${failing.value} END)`];
    return { value: `(SELECT ${made} ${of} AND ${condition})`, error: anyOf(either, of) };
  }

  /** The one that leads, of those that have the same as the record at hand and aren't it: the core's `leadingValue`. */
  private leading(
    node: TypedGather,
    { order, id, apart, same }: Leading,
    inner: RouteJoins,
    where: (joins: string) => string,
  ): Gathered {
    const { binds } = this.input;
    const { condition, value, failing } = partsOf(node, inner, binds);
    const beside = [
      ...(apart ? [`${inner.read(id)} <> ${this.read(apart)}`] : []),
      ...same.map(({ own, theirs }) => `${inner.read(theirs)} = ${this.read(own)}`),
    ];
    if (node.aggregate !== 'leading') {
      const made = gatheredSql(node, value, () => '');
      const of = [where(inner.sql()), ...beside].join(' AND ');
      return { value: `(SELECT ${made} ${of} AND ${condition})`, error: anyOf([failing.test], of) };
    }
    // A value is bound only where it is used.
    const by = order?.field ? orderKeySql(order.field, inner, binds) : null;
    const way = order?.isLast ? 'DESC' : 'ASC';
    const last = by ? `${by} ${way} NULLS LAST, ${inner.read(id)}` : `${inner.read(id)} ${way}`;
    const of = [where(inner.sql()), ...beside].join(' AND ');
    const first = (sql: string) => `(SELECT ${sql} ${of} AND ${condition} ORDER BY ${last} LIMIT 1)`;
    const problem =
      failing.value && first(`CASE WHEN ${failing.value} IS NOT NULL THEN 'input_has_problem' END`);
    const errors = [anyOf([failing.test], of), problem].filter((error) => error !== null);
    return {
      value: first(certain(value)),
      error: errors.length > 1 ? `COALESCE(${errors.join(', ')})` : (errors[0] ?? null),
    };
  }

  rate({ rates }: TypedExchange, pair: string, day: string): string {
    const column = (field: TypedField) => `x.${columnOf(field.field)}`;
    return `(SELECT ${column(rates.rate)} FROM ${tableOf(this.input.schema.schema, rates.type)} x
      WHERE x.deleted_run IS NULL AND ${column(rates.pair)} = ${pair} AND ${column(rates.day)} <= ${day}
        AND ${column(rates.day)} >= ${day} - ${RATE_DAYS} AND ${column(rates.rate)} IS NOT NULL
      ORDER BY ${column(rates.day)} DESC, x.id DESC LIMIT 1)`;
  }

  private alias(route: readonly string[]): string {
    if (route.length === 0) return this.input.alias;
    const near = this.alias(route.slice(0, -1));
    const key = `route ${route.join('.')}`;
    const name = `${this.input.prefix ?? ''}u${this.indexOf(key)}`;
    const { schema, from } = this.input;
    if (!this.#joins.has(key)) {
      const type = typeUp(schema.model, from, route);
      const join = `LEFT JOIN ${tableOf(schema.schema, type)} ${name} ON ${name}.id = ${near}.${columnOf(lastIn(route))} AND ${name}.deleted_run IS NULL`;
      this.#joins.set(key, join);
    }
    return name;
  }

  private insteadOf(alias: string, instead: string): string {
    const key = `instead ${alias} ${instead}`;
    const name = `${this.input.prefix ?? ''}i${this.indexOf(key)}`;
    if (!this.#joins.has(key))
      this.#joins.set(key, `LEFT JOIN ${instead} ${name} ON ${name}.id = ${alias}.id`);
    return name;
  }

  private indexOf(key: string): number {
    const index = [...this.#joins.keys()].indexOf(key);
    return index < 0 ? this.#joins.size : index;
  }
}

/** What is asked of each record that is gathered, what it gives, and what goes wrong in either. */
function partsOf({ condition, value }: TypedGather, inner: RouteJoins, binds: ValuePlaces) {
  return {
    condition: condition ? expressionSql(condition, inner, binds) : 'true',
    value: value ? expressionSql(value, inner, binds) : null,
    failing: {
      test: condition ? errorSql(condition, inner, binds) : null,
      value: value ? errorSql(value, inner, binds) : null,
    },
  };
}

/** Whether something goes wrong in any of the records of a query; `null` where nothing can. */
function anyOf(errors: readonly (string | null)[], of: string): string | null {
  const failing = errors.flatMap((error) => (error === null ? [] : `(${error} IS NOT NULL)`));
  if (failing.length === 0) return null;
  return `(SELECT CASE WHEN bool_or(${failing.join(' OR ')}) THEN 'input_has_problem' END ${of})`;
}

/**
 * The lowest records of a way down as a FROM, joined with those between (none of these in the bin); their alias, and the SQL of the
 * record at the top that each belongs to. `tops`: SQL of an array of their ids, where only some are wanted: all the way down it is gone from these.
 */
export function membersSql(
  schema: Schema,
  route: readonly StepDown[],
  { prefix = '', tops = null }: { readonly prefix?: string; readonly tops?: string | null } = {},
): { readonly from: string; readonly parent: string; readonly alias: string } {
  const [lowest, ...above] = [...route].reverse();
  const alias = `${prefix}c`;
  let at = alias;
  let { link } = certain(lowest);
  const joins = above.map((step, index) => {
    const name = `${prefix}m${index}`;
    const join = `JOIN ${tableOf(schema.schema, step.type)} ${name} ON ${name}.id = ${at}.${columnOf(link)} AND ${name}.deleted_run IS NULL`;
    at = name;
    ({ link } = step);
    return join;
  });
  const from = `${tableOf(schema.schema, certain(lowest).type)} ${alias} ${joins.join(' ')}`;
  const [first] = route;
  if (!first?.isAllTheWay) return { from, parent: `${at}.${columnOf(link)}`, alias };
  const beneath = `JOIN (${allBeneathSql(schema, first, tops)}) ${prefix}d ON ${prefix}d.id = ${at}.id`;
  return { from: `${from} ${beneath}`, parent: `${prefix}d.top`, alias };
}

/** Pairs of a record and one that lies beneath it over a link of their type to itself, at any depth. */
function allBeneathSql({ schema }: Schema, { type, link }: StepDown, tops: string | null): string {
  const [table, column] = [tableOf(schema, type), columnOf(link)];
  const wanted = tops ? `= ANY(${tops})` : 'IS NOT NULL';
  return `WITH RECURSIVE beneath AS (
      SELECT k.${column} AS top, k.id FROM ${table} k WHERE k.deleted_run IS NULL AND k.${column} ${wanted}
      UNION SELECT b.top, k.id FROM beneath b JOIN ${table} k ON k.${column} = b.id WHERE k.deleted_run IS NULL
    ) SELECT top, id FROM beneath`;
}

import { type CompiledRollUp, extremumSide } from '@/core/rules';
import { certain, firstIn, itemAt } from '@/core/values';
import { rankSql } from './expression-sql';
import { type ValuePlaces } from '@/server/store/sql/sql';

/** The SQL of what a member gives, and of its place in the order. */
export interface InOrder {
  readonly value: string;
  readonly keys: readonly string[];
  readonly id: string;
  /** Which of the rule's sources it comes from. */
  readonly source: string;
}

/** By what members are put in order, and in the end by their ids. */
function orderSql(rule: CompiledRollUp, { keys, id, source }: InOrder, way: string, nulls: string): string[] {
  const { order } = firstIn(rule.sources);
  const byKeys = keys.map(
    (key, at) =>
      `${key}${itemAt(order, at).type.kind === 'text' ? ' COLLATE "C"' : ''} ${way} NULLS ${nulls}`,
  );
  return [...byKeys, `${id} ${way}`, ...(rule.sources.length > 1 ? [`${source} ${way}`] : [])];
}

/** The value of the member that leads: the core's order (`leads`). */
export function leadingSql(rule: CompiledRollUp, member: InOrder, only: string): string {
  const [way, nulls] = rule.aggregate === 'first' ? (['ASC', 'FIRST'] as const) : (['DESC', 'LAST'] as const);
  return `(array_agg(${member.value} ORDER BY ${orderSql(rule, member, way, nulls).join(', ')})${only})[1]`;
}

/** The id of the child that leads among those that count: the core's `extremumOf`. */
export function leaderSql(
  rule: CompiledRollUp,
  member: InOrder,
  counting: string,
  binds: ValuePlaces,
): string {
  const { value, keys, id } = member;
  const [way, nulls] = extremumSide(rule) < 0 ? (['ASC', 'FIRST'] as const) : (['DESC', 'LAST'] as const);
  const byValue = () =>
    certain(rule.valueType).kind === 'choice' ? rankSql(certain(rule.valueType), value, binds) : value;
  const isOrdered = keys.length > 0;
  const order = isOrdered ? orderSql(rule, member, way, nulls) : [`${byValue()} ${way}`, `${id} ${way}`];
  const wanted = isOrdered ? counting : bothSql(counting, `${value} IS NOT NULL`);
  return `(array_agg(${id} ORDER BY ${order.join(', ')}) FILTER (WHERE ${wanted}))[1]`;
}

/** Texts one after the other: the core's order and words (`joinedFrom`). */
export function joinedSql(rule: CompiledRollUp, member: InOrder, only: string, binds: ValuePlaces): string {
  const { separator, isDistinct, isFromLast, most } = certain(rule.definition.joining);
  const text = `${member.value} COLLATE "C"`;
  const [way, nulls] = isFromLast ? (['DESC', 'LAST'] as const) : (['ASC', 'FIRST'] as const);
  const inOrder = orderSql(rule, member, way, nulls);
  const all = isDistinct
    ? `array_agg(DISTINCT ${text} ORDER BY ${text} ${way})${only}`
    : `array_agg(${member.value} ORDER BY ${[...(member.keys.length > 0 ? [] : [`${text} ${way}`]), ...inOrder].join(', ')})${only}`;
  const between = binds.add(separator, 'text');
  if (!most) return `array_to_string(${all}, ${between})`;
  const more = `cardinality(${all}) - ${most}`;
  return `(array_to_string((${all})[1:${most}], ${between}) || CASE WHEN ${more} > 0 THEN ' and ' || (${more})::text || ' more' ELSE '' END)`;
}

export const bothSql = (one: string, other: string): string =>
  one === 'true' ? other : other === 'true' ? one : `(${one} AND ${other})`;

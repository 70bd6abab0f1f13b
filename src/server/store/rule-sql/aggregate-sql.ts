import { type Aggregate, aggregateEntry, type CompiledRollUp, isAccumulated } from '@/core/rules';
import { certain, placesOf } from '@/core/values';
import { rankedSql } from './expression-sql';
import { type ValuePlaces } from '@/server/store/sql/sql';
import { deviationSql, medianSql, percentileSql } from './value-sql';
import { type InOrder, joinedSql, leadingSql } from './ordered-sql';

/** Whether what is brought together has no more places than the target, so that there is nothing to round. */
export function isExact({ aggregate, rounding, limits, target, valueType, own }: CompiledRollUp): boolean {
  if (['average', 'median', 'percentile', 'deviation'].includes(aggregate) || rounding || limits)
    return false;
  const places = placesOf(target.type) ?? 0;
  return [valueType, own.adds?.type].every((type) => !type || (placesOf(type) ?? 0) <= places);
}

/** How many members count, of rules that can't tell by what they come to. */
export function countSql(rule: CompiledRollUp, value: string, only: string): string {
  if (aggregateEntry(rule.aggregate).isOrdered) return `count(*)${only}`;
  return isAccumulated(rule) ? `count(${value})${only}` : 'NULL::int';
}

interface Brings {
  readonly rule: CompiledRollUp;
  readonly member: InOrder;
  /** A FILTER of the children that count. */
  readonly only: string;
  readonly binds: ValuePlaces;
}

const summed = ({ member, only }: Brings): string => `sum(${member.value})${only}`;

const leading = ({ rule, member, only }: Brings): string => leadingSql(rule, member, only);

const ranked =
  (which: 'min' | 'max') =>
  ({ rule, member, only, binds }: Brings): string =>
    rankedSql(certain(rule.valueType), member.value, which, binds, only);

/** What the children that count come to, by aggregate. NULL where none has a value. */
export const AGGREGATE_SQL = {
  count: (brings) => (brings.rule.recursion ? summed(brings) : `count(${brings.member.value})${brings.only}`),
  countDistinct: ({ member, only }) => `NULLIF(count(DISTINCT ${member.value})${only}, 0)`,
  sum: summed,
  average: summed,
  median: ({ member, only }) => medianSql(member.value, only),
  percentile: ({ rule, member, only }) => percentileSql(member.value, only, certain(rule.definition.percent)),
  deviation: ({ member, only }) => deviationSql(member.value, only),
  minimum: ({ member, only }) => `min(${member.value})${only}`,
  maximum: ({ member, only }) => `max(${member.value})${only}`,
  range: ({ member, only }) => `(max(${member.value})${only} - min(${member.value})${only})`,
  all: ({ member, only }) => `bool_and(${member.value})${only}`,
  any: ({ member, only }) => `bool_or(${member.value})${only}`,
  none: ({ member, only }) => `(NOT bool_or(${member.value})${only})`,
  first: leading,
  last: leading,
  joined: ({ rule, member, only, binds }) => joinedSql(rule, member, only, binds),
  best: ranked('min'),
  worst: ranked('max'),
} satisfies Record<Aggregate, (brings: Brings) => string>;

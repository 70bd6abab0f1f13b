import type { Acting } from '@/core/engine';
import type { CompiledLimits, CompiledRule, FieldRef } from '@/core/rules';
import { Decimal, LONG_TEXT_LENGTH, placesOf, type Rounding, TEXT_LENGTH, WHOLE_DIGITS } from '@/core/values';
import type { Schema, ValuePlaces } from '@/server/store/sql/sql';

/**
 * SQL of a query of the records of which a person entered the field in this run, with its values bound; `null` where none did.
 */
export type EnteredQuery = (ref: FieldRef, binds: ValuePlaces) => string | null;

/** Rules to be worked out by one statement. */
export interface RollUpQuery {
  readonly schema: Schema;
  /** Rules over the same link: one pass over the children serves them all. */
  readonly rules: readonly CompiledRule[];
  readonly binds: ValuePlaces;
  /** SQL of a uuid[] of targets, or a query of their ids; left out for all records of the target's type. */
  readonly targets?: string;
  /** Fields that other rules keep: they may be in error. */
  readonly isKept: (type: string, field: string) => boolean;
  /** Names of earlier queries of the same statement that give a field another value: `exhibition.artefactCount` → `r1`. */
  readonly instead?: ReadonlyMap<string, string>;
  /** Also reads what is kept beside the targets: `was_count`, `was_sum`, `was_errors`, `was_leader` of each rule that has it. */
  readonly withKept?: boolean;
  /** Works out which child leads, of rules that are kept by their leader: `leader`. */
  readonly withLeader?: boolean;
  /** Of rules that react: whether they act on a change of their result, on every record whose result asks for a value, or not at all. */
  readonly acting?: Acting;
  readonly entered?: EnteredQuery;
}

/**
 * First the rule's own rounding and limits; then, where no map follows, the target's places, halves away from zero (as PostgreSQL rounds
 * numerics).
 */
export function roundedSql(
  rule: Pick<CompiledRule, 'target' | 'resultType' | 'limits' | 'map'>,
  sql: string,
  rounding: Rounding | null,
  /** It has no more places than the target. */
  isExact = false,
): string {
  const places = placesOf(rule.map ? rule.resultType : rule.target.type);
  if (places === null) return sql;
  const own = limitedSql(rounding ? roundSql(rounding, sql) : sql, rule.limits);
  return rule.map || isExact ? `(${own})::numeric` : `round((${own})::numeric, ${places})`;
}

/** Held to the limits, which were checked: they are digits. Of nothing nothing is made. */
function limitedSql(sql: string, limits: CompiledLimits | null): string {
  if (!limits) return sql;
  const least = limits.least ? `GREATEST(${sql}, ${limits.least.toFixed()})` : sql;
  const held = limits.most ? `LEAST(${least}, ${limits.most.toFixed()})` : least;
  return `(CASE WHEN (${sql}) IS NOT NULL THEN ${held} END)`;
}

function roundSql({ mode, places, step }: Rounding, sql: string): string {
  if (step !== undefined) return stepSql(mode, new Decimal(step).toFixed(), `(${sql})::numeric`);
  if (mode === 'nearest') return `round((${sql})::numeric, ${places})`;
  const [up, down] = [`1${'0'.repeat(places)}`, places === 0 ? '1' : `0.${'0'.repeat(places - 1)}1`];
  return `${mode === 'up' ? 'ceil' : 'floor'}((${sql}) * ${up}) * ${down}`;
}

/** The core's whole-number formula for a multiple of a step (`round`). The step was checked: it is digits. */
function stepSql(mode: Rounding['mode'], step: string, sql: string): string {
  if (mode === 'nearest') return `sign(${sql}) * div(2 * abs(${sql}) + ${step}, 2 * ${step}) * ${step}`;
  const [more, sign] = mode === 'up' ? ['+', '>'] : ['-', '<'];
  return `(div(${sql}, ${step}) ${more} CASE WHEN ${sql} ${sign} 0 AND mod(${sql}, ${step}) <> 0 THEN 1 ELSE 0 END) * ${step}`;
}

export function outOfRangeSql(rule: Pick<CompiledRule, 'target' | 'map'>, result: string): string {
  if (rule.map) return 'false'; // what a map writes was checked with the rule
  const { type } = rule.target;
  if (type.kind === 'text' || type.kind === 'longText')
    // A letter outside the basic plane takes two of the units that the core counts; it never takes more units than bytes, which are counted
    // at once.
    return `octet_length(${result}) > ${type.kind === 'text' ? TEXT_LENGTH : LONG_TEXT_LENGTH} AND char_length(${result}) + char_length(regexp_replace(${result}, '[\\u0001-\\uFFFF]', '', 'g')) > ${type.kind === 'text' ? TEXT_LENGTH : LONG_TEXT_LENGTH}`;
  if (type.kind === 'rating') return `(${result} < ${type.lowest} OR ${result} > ${type.highest})`;
  const bound = `1${'0'.repeat(WHOLE_DIGITS)}`;
  return placesOf(type) === null ? 'false' : `(${result} >= ${bound} OR ${result} <= -${bound})`;
}

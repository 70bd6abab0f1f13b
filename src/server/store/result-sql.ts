import type { CompiledRule } from '@/core/rules';
import { Decimal, LONG_TEXT_LENGTH, placesOf, type Rounding, TEXT_LENGTH, WHOLE_DIGITS } from '@/core/values';
import type { Schema, ValuePlaces } from './sql';

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
  /** Also reads what is kept beside the targets: `was_count`, `was_sum`, `was_errors` of each rule that has it. */
  readonly withKept?: boolean;
}

/** First the rule's own rounding, then the target's places, halves away from zero (as PostgreSQL rounds numerics). */
export function roundedSql(
  rule: Pick<CompiledRule, 'target'>,
  sql: string,
  rounding: Rounding | null,
): string {
  const places = placesOf(rule.target.type);
  if (places === null) return sql;
  const own = rounding ? roundSql(rounding, sql) : sql;
  return `round((${own})::numeric, ${places})`;
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

export function outOfRangeSql(rule: Pick<CompiledRule, 'target'>, result: string): string {
  const { type } = rule.target;
  if (type.kind === 'text' || type.kind === 'longText')
    // A letter outside the basic plane takes two of the units that the core counts.
    return `char_length(${result}) + char_length(regexp_replace(${result}, '[\\u0001-\\uFFFF]', '', 'g')) > ${type.kind === 'text' ? TEXT_LENGTH : LONG_TEXT_LENGTH}`;
  if (type.kind === 'rating') return `(${result} < ${type.lowest} OR ${result} > ${type.highest})`;
  return placesOf(type) === null ? 'false' : `abs(${result}) >= 1${'0'.repeat(WHOLE_DIGITS)}`;
}

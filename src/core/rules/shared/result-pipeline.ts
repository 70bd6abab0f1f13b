import {
  type CompareOperator,
  evaluate,
  operatorsFor,
  type Typed,
  type TypedField,
  YES_NO,
} from '@/core/expression';
import type { Field } from '@/core/model';
import {
  Decimal,
  fitValue,
  isMoney,
  type Outcome,
  parseValue,
  placesOf,
  type Problem,
  round,
  type Rounding,
  type Limits,
  sameValue,
  type Value,
  type ValueType,
  type WireValue,
  itemAt,
} from '@/core/values';
import { finding } from './check-target';

/** What is written where the result compares so. */
export interface MapRow {
  readonly operator: CompareOperator;
  /** As a value of the result. */
  readonly than: WireValue;
  /** As a value of the target; `null` is empty. */
  readonly writes: WireValue;
}

/** From the result to what is written: the first row that holds says so. */
export interface ResultMap {
  readonly rows: readonly MapRow[];
  /** Where no row holds. Left as it is, the rule reacts to a change of its result, and people may edit the field. */
  readonly otherwise: { readonly kind: 'writes'; readonly value: WireValue } | { readonly kind: 'asItIs' };
}

export interface CompiledLimits {
  readonly least: Decimal | null;
  readonly most: Decimal | null;
}

export interface CompiledMap {
  readonly rows: readonly { readonly test: Typed; readonly writes: Value }[];
  readonly otherwise: { readonly value: Value } | 'asItIs';
}

/** What a rule's result goes through before it stands in its target. */
export interface Writing {
  readonly target: Field;
  readonly rounding: Rounding | null;
  readonly limits: CompiledLimits | null;
  readonly map: CompiledMap | null;
}

/** Where no row of a map holds, and where nothing counts: numbers beside those of the rows, which start at 0. */
export const OTHERWISE = -1;
export const NONE = -2;
/** The result can't be worked out. */
export const FAILED = -3;

/** A result within its limits: first rounded, then held to them. */
export function limited(value: Value, rounding: Rounding | null, limits: CompiledLimits | null): Value {
  const amount = isMoney(value) ? value.amount : Decimal.isDecimal(value) ? value : null;
  if (amount === null) return value;
  let held = rounding ? round(amount, rounding) : amount;
  if (limits?.least && held.lessThan(limits.least)) held = limits.least;
  if (limits?.most && held.greaterThan(limits.most)) held = limits.most;
  return isMoney(value) ? { ...value, amount: held } : held;
}

/**
 * What stands in the target for a result: rounded, held to the limits, then through the map or fitted to the target. For a rule that
 * reacts it is the number of the map's row: what it does with that depends on what it was before.
 */
export function writtenFrom(rule: Writing, value: Value, rounding: Rounding | null = rule.rounding): Outcome {
  if (!rule.limits && !rule.map) return fitValue(value, rule.target.type, rounding);
  const held = limited(value, rounding, rule.limits);
  if (!rule.map) return fitValue(held, rule.target.type, null);
  const row = rowFor(rule.map, held);
  if (rule.map.otherwise === 'asItIs') return { value: new Decimal(row) };
  return { value: row < 0 ? rule.map.otherwise.value : itemAt(rule.map.rows, row).writes };
}

/** The row of a map that holds for a result within its limits: its number. */
const rowFor = (map: CompiledMap, held: Value): number =>
  map.rows.findIndex(({ test }) => evaluate(test, () => held) === true);

/** The same for a result as it is worked out. */
export const rowOf = (rule: Writing, map: CompiledMap, value: Value): number =>
  rowFor(map, limited(value, rule.rounding, rule.limits));

/** What a reacting rule writes at a row of its map; `undefined` where it leaves the target as it is. */
export function writtenAt(map: CompiledMap, whenNone: Value, row: number | null): Value | undefined {
  if (row === NONE) return whenNone ?? undefined;
  return row === null || row < 0 ? undefined : itemAt(map.rows, row).writes;
}

/**
 * Whether a reacting rule acts: its result now asks for a value that it didn't ask for before. `before` is `null` where the record wasn't
 * there. What people have set meanwhile doesn't matter.
 */
export function isDue(map: CompiledMap, whenNone: Value, before: number | null, after: number): boolean {
  const wanted = writtenAt(map, whenNone, after);
  const had = writtenAt(map, whenNone, before);
  return wanted !== undefined && (had === undefined || !sameValue(wanted, had));
}

/** The result, as the tests of a map read it. */
const resultField = (type: ValueType): TypedField => ({
  ...{ kind: 'field', type, from: '', owner: '', route: [], field: 'result' },
});

const MOST_ROWS = 50;
const COMPARING: readonly string[] = ['=', '!=', '<', '<=', '>', '>='];

/** How a result of a kind can be compared with a value. */
export const comparisonsFor = (type: ValueType) =>
  operatorsFor(type.kind).filter(({ operator }) => COMPARING.includes(operator));

/** Checks a map against what the rule gives and what its target takes. */
export function compileMap(
  map: ResultMap,
  result: ValueType,
  target: Field,
): { readonly map: CompiledMap | null; readonly problems: readonly Problem[] } {
  const problems: Problem[] = [];
  const read = (type: ValueType, value: WireValue, place: string): Value => {
    const parsed = parseValue(type, value);
    if (parsed.ok) return parsed.value;
    problems.push({ ...parsed.problem, place });
    return null;
  };
  if (map.rows.length === 0 || map.rows.length > MOST_ROWS)
    problems.push(finding('map', 'rule.map', `A table of results has 1 to ${MOST_ROWS} rows.`));
  const rows = map.rows.map(({ operator, than, writes }, at) => {
    const place = `map.${at}`;
    if (!comparisonsFor(result).some((entry) => entry.operator === operator))
      problems.push(
        finding(place, 'rule.map', `The result can’t be compared by “${operator}”. Choose another test.`),
      );
    const value = read(result, than, place);
    if (value === null && than === null)
      problems.push(finding(place, 'rule.map', 'Say what the result is compared with.'));
    const right: Typed = { kind: 'constant', type: result, value };
    const test: Typed = { kind: 'compare', type: YES_NO, operator, left: resultField(result), right };
    return { test, writes: read(target.type, writes, place) };
  });
  const { otherwise } = map;
  const last =
    otherwise.kind === 'asItIs' ? 'asItIs' : { value: read(target.type, otherwise.value, 'map.otherwise') };
  return { map: problems.length === 0 ? { rows, otherwise: last } : null, problems };
}

const BOUND = /^-?\d{1,30}(\.\d{1,20})?$/;

/** Checks limits: of amounts only, the lower not above the upper. */
export function compileLimits(
  limits: Limits | null | undefined,
  result: ValueType | null,
): { readonly limits: CompiledLimits | null; readonly problems: readonly Problem[] } {
  const { least = null, most = null } = limits ?? {};
  if (least === null && most === null) return { limits: null, problems: [] };
  const say = (message: string) => ({
    limits: null,
    problems: [finding('limits', 'rule.limits', message)],
  });
  for (const bound of [least, most])
    if (bound !== null && !BOUND.test(bound))
      return say(
        `A limit is a number, with at most 30 digits before the point and 20 after it; found “${bound}”.`,
      );
  if (result && placesOf(result) === null)
    return say('Only numbers, money and ratings have limits. Leave them out.');
  const compiled = {
    least: least === null ? null : new Decimal(least),
    most: most === null ? null : new Decimal(most),
  };
  if (compiled.least && compiled.most && compiled.least.greaterThan(compiled.most))
    return say(`The lower limit ${least} is above the upper limit ${most}. Swap them.`);
  return { limits: compiled, problems: [] };
}

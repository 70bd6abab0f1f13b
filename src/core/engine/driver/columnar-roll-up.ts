import { evaluatorOf, fieldsRead, type ReadOf, type Typed, type TypedField } from '@/core/expression';
import {
  type Accumulator,
  accumulatorOfUnits,
  type Aggregated,
  type CompiledRollUp,
  foldedOutcome,
  isAccumulated,
  keptOutcomeOf,
  outcomeOf,
} from '@/core/rules';
import { placesOf, firstIn, itemAt } from '@/core/values';
import { type DictionaryColumn, type Columns, getOrCreate, type Numbers } from './columns';
import { OWN_FIELDS } from './record';

const isField = (value: Typed | null): value is TypedField | null => value === null || value.kind === 'field';

/** Rules whose children's own fields are all that they read, and whose values are numbers or dates, or none. */
function isForColumns(rule: CompiledRollUp): boolean {
  const kind = rule.valueType?.kind;
  const isNumber = kind === undefined || placesOf(rule.valueType!) !== null;
  return (
    ['count', 'sum', 'average', 'minimum', 'maximum'].includes(rule.aggregate) &&
    firstIn(rule.sources).isOwn &&
    isField(firstIn(rule.sources).value) &&
    rule.recursion === null &&
    rule.map === null &&
    (isNumber || kind === 'date' || kind === 'dateTime')
  );
}

/** The value of a rule for one parent, given what is kept beside it; `null` where the rows must tell. */
export type OfParent = (parent: number, kept: Accumulator | undefined) => Aggregated | null;

/** Goes over all children of a link at once; what rules have in common (who counts, and of what) is gone over once. */
export class ColumnarRollUp {
  readonly #parents: DictionaryColumn;
  /** Parents with a child that has a field in error: what that means for a rule, the rows tell. */
  readonly #byRow: ReadonlySet<number>;
  readonly #who = new Map<string, Uint8Array>();
  readonly #totals = new Map<string, Totals>();

  constructor(
    private readonly columns: Columns,
    link: string,
  ) {
    this.#parents = columns.parents(link);
    this.#byRow = new Set([...columns.inError].map((slot) => this.#parents.of[slot]!));
  }

  /** The number of a parent, for `OfParent`; `null` where the rows must tell. */
  parent(id: string): number | null {
    const parent = this.#parents.codeOf(id) ?? 0;
    return this.#byRow.has(parent) ? null : parent;
  }

  /** `null`: the rule is left to the rows altogether. */
  workOut(rule: CompiledRollUp): OfParent | null {
    if (!isForColumns(rule)) return null;
    return isAccumulated(rule)
      ? this.total(rule)
      : extremes(rule, this.columns, this.#parents, this.who(rule));
  }

  private who({ sources }: CompiledRollUp): Uint8Array | null {
    const { condition, definition } = firstIn(sources);
    if (!condition) return null;
    return getOrCreate(this.#who, JSON.stringify(definition.condition), () =>
      whoCounts(condition, this.columns),
    );
  }

  private total(rule: CompiledRollUp): OfParent {
    const value = firstIn(rule.sources).value as TypedField | null;
    const numbers = value ? this.columns.numbers(value.field, placesOf(value.type) ?? 0) : null;
    const key = JSON.stringify([value?.field ?? null, firstIn(rule.sources).definition.condition]);
    const { counts, sums } = getOrCreate(this.#totals, key, () =>
      totals(this.#parents, this.columns.rows.length, this.who(rule), numbers),
    );
    const largest = numbers?.largest ?? 0;
    return (parent, kept) => {
      const count = counts[parent]!;
      const sum = sums[parent]!;
      if (!Number.isFinite(sum) || count * largest > Number.MAX_SAFE_INTEGER) return null;
      const accumulator = accumulatorOfUnits(rule, count, sum, kept);
      const outcome = accumulator === kept ? keptOutcomeOf(rule, kept) : outcomeOf(rule, accumulator);
      return { outcome, accumulator };
    };
  }
}

const MOST_VERDICTS = 1 << 16;

/**
 * Which records meet a condition: 1 or 0 for each slot. It is worked out once for each combination of values that its fields
 * have, by the same evaluator as everywhere, where these are few enough; else for each record.
 */
function whoCounts(condition: Typed, columns: Columns): Uint8Array {
  const size = columns.rows.length;
  const counts = new Uint8Array(size);
  const test = evaluatorOf(condition);
  const fields = [...new Set(fieldsRead(condition).map(({ field }) => field))];
  const codes = fields.map((field) => columns.codes(field));
  const combinations = codes.reduce((product, { values }) => product * values.length, 1);
  if (combinations > MOST_VERDICTS) {
    for (let slot = 0; slot < size; slot += 1)
      counts[slot] = test(itemAt(columns.rows, slot), OWN_FIELDS.value) === true ? 1 : 0;
    return counts;
  }
  const verdicts = new Uint8Array(combinations);
  const read: ReadOf<number> = (combination, { field }) => {
    let rest = combination;
    for (const [at, { values }] of codes.entries()) {
      if (fields[at] === field) return itemAt(values, rest % values.length);
      rest = Math.floor(rest / values.length);
    }
    throw new ReferenceError(`The condition doesn’t read “${field}”`);
  };
  for (let combination = 0; combination < combinations; combination += 1)
    verdicts[combination] = test(combination, read) === true ? 1 : 0;
  const combined = codes.length === 1 ? firstIn(codes).of : combine(codes, size);
  for (let slot = 0; slot < size; slot += 1) counts[slot] = verdicts[combined[slot]!]!;
  return counts;
}

function combine(codes: readonly DictionaryColumn[], size: number): Int32Array {
  const combined = new Int32Array(size);
  let factor = 1;
  for (const { of, values } of codes) {
    for (let slot = 0; slot < size; slot += 1) combined[slot]! += of[slot]! * factor;
    factor *= values.length;
  }
  return combined;
}

interface Totals {
  readonly counts: Int32Array;
  readonly sums: Float64Array;
}

/** How many count and what they come to. Sums are of whole numbers, exact as long as none can have grown too large. */
function totals(
  parents: DictionaryColumn,
  size: number,
  who: Uint8Array | null,
  numbers: Numbers | null,
): Totals {
  const counts = new Int32Array(parents.values.length);
  const sums = new Float64Array(parents.values.length);
  const { of } = parents;
  if (!numbers) {
    for (let slot = 0; slot < size; slot += 1) if (who === null || who[slot] === 1) counts[of[slot]!]! += 1;
  } else {
    const values = numbers.of;
    for (let slot = 0; slot < size; slot += 1) {
      const value = values[slot]!;
      if ((who !== null && who[slot] === 0) || value !== value) continue;
      const parent = of[slot]!;
      counts[parent]! += 1;
      sums[parent]! += value;
    }
  }
  counts[0] = sums[0] = 0; // what hangs under nothing, or lies in the bin
  return { counts, sums };
}

/** The smallest and the largest; what leads is read from its row. */
function extremes(
  rule: CompiledRollUp,
  columns: Columns,
  parents: DictionaryColumn,
  who: Uint8Array | null,
): OfParent | null {
  const { field, type } = firstIn(rule.sources).value as TypedField;
  const numbers = columns.numbers(field, placesOf(type) ?? 0);
  if (!numbers.isExact) return null;
  const size = columns.rows.length;
  const values = numbers.of;
  const { of } = parents;
  const sign = rule.aggregate === 'minimum' ? -1 : 1;
  const best = new Float64Array(parents.values.length).fill(-Infinity);
  const leader = new Int32Array(parents.values.length).fill(-1);
  for (let slot = 0; slot < size; slot += 1) {
    if (who !== null && who[slot] === 0) continue;
    const value = values[slot]! * sign;
    const parent = of[slot]!;
    if (value > best[parent]!) {
      best[parent] = value;
      leader[parent] = slot;
    }
  }
  leader[0] = -1;
  return (parent) => {
    const slot = leader[parent]!;
    const value = slot < 0 ? null : (itemAt(columns.rows, slot).values[field] ?? null);
    return { outcome: foldedOutcome(rule, value), accumulator: null };
  };
}

import { type Value, Decimal, valueKey } from '@/core/values';
import { unitsOf } from '@/core/rules';
import type { Row } from './record';

/** Values as small whole numbers: the same value has the same code. Code 0 is empty. */
export class DictionaryColumn {
  of = new Int32Array(64);
  readonly values: Value[] = [null];
  readonly #codes = new Map<string | boolean, number>();

  put(slot: number, value: Value): void {
    if (slot >= this.of.length) this.of = grown(this.of, Int32Array, slot);
    this.of[slot] = this.coded(value);
  }

  /** The code of a value, also of one that nothing has had yet. */
  private coded(value: Value): number {
    if (value === null) return 0;
    const key = valueKey(value);
    let code = this.#codes.get(key);
    if (code === undefined) {
      this.#codes.set(key, (code = this.values.length));
      this.values.push(value);
    }
    return code;
  }

  codeOf(value: string): number | undefined {
    return this.#codes.get(value);
  }
}

/**
 * Values as numbers in their order. Amounts are whole numbers of 10 to the minus `scale`; dates and date-times count days
 * and milliseconds. Not a number: empty. Infinite: a value that has no exact number here.
 */
export class Numbers {
  of = new Float64Array(64);
  /** At least as large as the largest that was ever put, whatever its sign. */
  largest = 0;
  /** Whether every value that was ever put has its exact number. */
  isExact = true;

  constructor(private readonly scale: number) {}

  put(slot: number, value: Value): void {
    if (slot >= this.of.length) this.of = grown(this.of, Float64Array, slot);
    const number = value === null ? NaN : (numberOf(value, this.scale) ?? Infinity);
    this.of[slot] = number;
    if (number === Infinity) this.isExact = false;
    else if (Math.abs(number) > this.largest) this.largest = Math.abs(number);
  }
}

function numberOf(value: Exclude<Value, null>, scale: number): number | null {
  if (Decimal.isDecimal(value)) return unitsOf(value, scale);
  if (typeof value === 'string') {
    const instant = Date.parse(value);
    return Number.isNaN(instant) ? null : instant;
  }
  return typeof value === 'object' && 'amount' in value ? unitsOf(value.amount, scale) : null;
}

function grown<T extends { length: number; set(from: T): void }>(
  from: T,
  make: new (length: number) => T,
  slot: number,
): T {
  const larger = new make(Math.max(slot + 1, from.length * 2));
  larger.set(from);
  return larger;
}

/**
 * The records of one type as columns beside their rows, for working out rules for many parents at once. A column is made when
 * it is first asked for, and kept up to date from then on. What numbers can't say is left to the rows.
 */
export class Columns {
  readonly rows: Row[] = [];
  readonly #slots = new Map<string, number>();
  readonly #codes = new Map<string, DictionaryColumn>();
  readonly #numbers = new Map<string, Numbers>();
  readonly #parents = new Map<string, DictionaryColumn>();
  /** Slots of records that have a field in error. */
  readonly inError = new Set<number>();

  constructor(rows: Iterable<Row>) {
    for (const row of rows) this.put(row);
  }

  put(row: Row): void {
    let slot = this.#slots.get(row.id);
    if (slot === undefined) this.#slots.set(row.id, (slot = this.rows.length));
    this.rows[slot] = row;
    if (hasAny(row.errors)) this.inError.add(slot);
    else this.inError.delete(slot);
    for (const [field, codes] of this.#codes) codes.put(slot, row.values[field] ?? null);
    for (const [field, numbers] of this.#numbers) numbers.put(slot, row.values[field] ?? null);
    for (const [link, parents] of this.#parents) parents.put(slot, parentOf(row, link));
  }

  codes(field: string): DictionaryColumn {
    return getOrCreate(this.#codes, field, () =>
      this.filled(new DictionaryColumn(), (row) => row.values[field] ?? null),
    );
  }

  /** `scale`: places of the field's amounts; of no account for dates. */
  numbers(field: string, scale: number): Numbers {
    return getOrCreate(this.#numbers, field, () =>
      this.filled(new Numbers(scale), (row) => row.values[field] ?? null),
    );
  }

  /** Which parent each record hangs under; empty for those in the bin too. */
  parents(link: string): DictionaryColumn {
    return getOrCreate(this.#parents, link, () =>
      this.filled(new DictionaryColumn(), (row) => parentOf(row, link)),
    );
  }

  private filled<T extends DictionaryColumn | Numbers>(column: T, valueOf: (row: Row) => Value): T {
    for (const [slot, row] of this.rows.entries()) column.put(slot, valueOf(row));
    return column;
  }
}

const parentOf = (row: Row, link: string): Value => (row.deleted ? null : (row.values[link] ?? null));

function hasAny(of: object): boolean {
  for (const _key in of) return true;
  return false;
}

/** What is known by a key, made when it is first asked for. */
export function getOrCreate<T>(of: Map<string, T>, key: string, make: () => T): T {
  let found = of.get(key);
  if (found === undefined) of.set(key, (found = make()));
  return found;
}

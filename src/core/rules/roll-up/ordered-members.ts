import { Failure, OUTSIDE, type Outside } from '@/core/expression';
import { certain, compareText, compareValues, firstIn, type Value } from '@/core/values';
import { aggregateEntry, type CompiledRollUp } from './roll-up';
import { EMPTY, givenBy, IN_ERROR, LEFT_OUT, type Members, readyOf } from './member-gives';

/** A member with its place in the order that tells which of them leads. */
export interface Candidate {
  readonly keys: readonly Value[];
  readonly id: string;
  readonly value: Value;
  /** Which source it comes from: a record may come from several. */
  readonly source: number;
}

/** Below 0 where the first by the order leads, above where the last does; 0 where none does. */
export function extremumSide({ aggregate }: CompiledRollUp): -1 | 0 | 1 {
  if (aggregate === 'first' || aggregate === 'minimum' || aggregate === 'best') return -1;
  return aggregate === 'last' || aggregate === 'maximum' || aggregate === 'worst' ? 1 : 0;
}

/**
 * The member that leads: the first or last by the rule's order, or that with the smallest or largest value. `null` where none has a place
 * in it.
 */
export function extremumOf<T>(
  rule: CompiledRollUp,
  members: readonly Members<T>[],
): Candidate | null | Outside | typeof IN_ERROR {
  const found = candidatesOf(rule, members, (one) => one.keys[0] !== null);
  if (!Array.isArray(found)) return found;
  return found.reduce<Candidate | null>(
    (best, one) => (best === null || leads(rule, one, best) ? one : best),
    null,
  );
}

/** Whether one member leads another. */
export const leads = (rule: CompiledRollUp, one: Candidate, other: Candidate): boolean =>
  inOrderOf(rule, one, other) * extremumSide(rule) > 0;

/** Members with their places in the order, those that `isWanted`; over a bridge each end once. */
export function candidatesOf<T>(
  rule: CompiledRollUp,
  members: readonly Members<T>[],
  isWanted: (one: Candidate) => boolean,
): Candidate[] | Outside | typeof IN_ERROR {
  const found: Candidate[] = [];
  const byValue = isByValue(rule);
  let isInError = false;
  for (const { source, rows, reader } of members) {
    const ready = readyOf(source);
    const seen = new Set<Value>();
    for (const row of rows) {
      const given = givenBy(rule, ready, row, reader);
      if (given === OUTSIDE) return OUTSIDE;
      if (given === LEFT_OUT) continue;
      const keys: (Value | Outside | Failure)[] = byValue
        ? [given === EMPTY || given === IN_ERROR ? null : (given as Value)]
        : source.order.map((field) => reader.given(row, field));
      const end = source.once ? reader.given(row, source.once) : null;
      if (keys.includes(OUTSIDE) || end === OUTSIDE) return OUTSIDE;
      if (given === IN_ERROR || [...keys, end].some((one) => one instanceof Failure)) {
        isInError = true;
        continue;
      }
      const id = source.once ? (end as string | null) : reader.idOf(row);
      if (id === null || (source.once && seen.has(id))) continue;
      const value = given === EMPTY ? null : (given as Value);
      const one: Candidate = { keys: keys as Value[], id, value, source: rule.sources.indexOf(source) };
      if (!isWanted(one)) continue;
      seen.add(id);
      found.push(one);
    }
  }
  return isInError ? IN_ERROR : found;
}

/** Whether it is by their values that members lead, rather than by an order. */
const isByValue = (rule: CompiledRollUp): boolean =>
  extremumSide(rule) !== 0 && !aggregateEntry(rule.aggregate).isOrdered;

/** Below 0 where one comes before the other: by the rule's order, where empty comes first, and in the end by their ids. */
export function inOrderOf(rule: CompiledRollUp, a: Candidate, b: Candidate): number {
  const types = isByValue(rule)
    ? [certain(rule.valueType)]
    : firstIn(rule.sources).order.map(({ type }) => type);
  for (const [at, type] of types.entries()) {
    const [one, other] = [a.keys[at] ?? null, b.keys[at] ?? null];
    const apart =
      one === null || other === null
        ? Number(one !== null) - Number(other !== null)
        : compareValues(type, one, other);
    if (apart !== 0) return apart;
  }
  return compareText(a.id, b.id) || a.source - b.source;
}

/** The texts with what stands between them, and how many more there are. */
export function joinedText({ definition }: CompiledRollUp, texts: readonly string[]): string {
  const { separator, isDistinct, most } = certain(definition.joining);
  const all = isDistinct ? [...new Set(texts)] : texts;
  const shown = most ? all.slice(0, most) : all;
  const more = all.length - shown.length;
  return shown.join(separator) + (more > 0 ? ` and ${more} more` : '');
}

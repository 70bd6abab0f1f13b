import { compareText, compareValues, type Value } from '@/core/values';
import type { OrderOf, TypedField } from '@/core/syntax/expression';
import { Failure, OUTSIDE, type Worked } from './worked';

interface OrderReader<T> {
  readonly given: (one: T, field: TypedField) => Worked;
  readonly idOf: (one: T) => string;
}

/** By the rule's order, what has none of it last; where that is the same, by their ids, which go by the time of making. */
export function inOrder<T>(found: readonly T[], order: OrderOf | null, reader: OrderReader<T>): readonly T[] {
  if (found.length < 2) return found;
  const { field = null, isLast = false } = order ?? {};
  const keyOf = (one: T): Value => {
    const key = field ? reader.given(one, field) : null;
    return key === OUTSIDE || key instanceof Failure ? null : key;
  };
  return [...found].sort((a, b) => {
    const [one, other] = [keyOf(a), keyOf(b)];
    const apart =
      field === null || one === null || other === null
        ? Number(one === null) - Number(other === null)
        : compareValues(field.type, one, other) * (isLast ? -1 : 1);
    const made = compareText(reader.idOf(a), reader.idOf(b));
    return apart || (order && !field && isLast ? -made : made);
  });
}

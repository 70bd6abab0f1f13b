import { certain, sameValue } from '@/core/values';
import type { Leading, TypedField, TypedGather } from '@/core/syntax/expression';
import { inOrder } from './in-order';
import {
  type Evaluator,
  Failure,
  isNothingKnown,
  type MakeReady,
  OUTSIDE,
  type ReadOf,
  type Worked,
} from './worked';

/** Of the records that are gathered for one, those that it doesn't leave out and that have the same as it. */
export function* countingFor<T>(
  { apart, same, id }: Leading,
  at: T,
  members: readonly T[],
  read: ReadOf<T>,
): Iterable<T> {
  const own = apart && read(at, apart);
  const wanted = same.map(({ own, theirs }): { theirs: TypedField; value: Worked } => ({
    ...{ theirs, value: read(at, own) },
  }));
  for (const member of members)
    if (
      (own === null || read(member, id) !== own) &&
      wanted.every(({ value, theirs }) => isSame(value, read(member, theirs)))
    )
      yield member;
}

const isSame = (one: Worked, other: Worked): boolean =>
  one !== null && other !== null && !isNothingKnown(one) && !isNothingKnown(other) && sameValue(one, other);

/**
 * The value of the first, by its order, of those records that are gathered and meet the condition: a problem in the condition of any of
 * them is one of the whole, a problem in a value only where it is the one that leads.
 */
export function leadingValue(node: TypedGather, ready: MakeReady): Evaluator {
  const leading = certain(node.leading);
  const test = node.condition && ready(node.condition);
  const value = node.value && ready(node.value);
  return (at, read, beneath) => {
    if (!beneath || !value) throw new RangeError('Records beneath can’t be read here');
    const members = beneath(at, node);
    if (members === OUTSIDE) return OUTSIDE;
    const found = [];
    let failure: Failure | null = null;
    for (const member of countingFor(leading, at, members, read)) {
      const verdict = test ? test(member, read, beneath) : true;
      if (verdict === OUTSIDE) return OUTSIDE;
      if (verdict instanceof Failure) failure = Failure.of('input_has_problem');
      if (verdict === true) found.push(member);
    }
    if (failure) return failure;
    const [first] = inOrder(found, leading.order, {
      given: read,
      idOf: (one) => String(read(one, leading.id)),
    });
    if (first === undefined) return null;
    const worked = value(first, read, beneath);
    return worked instanceof Failure ? Failure.of('input_has_problem') : worked;
  };
}

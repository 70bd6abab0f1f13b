import { conversion, type ValueType } from '@/core/values';

/**
 * Whether what an expression gives can be written into a field. A formula says itself what its numbers mean: they may go into a number
 * without a unit, or into money as an amount of its currency.
 */
export function isWritable(from: ValueType, into: ValueType): boolean {
  if (conversion(from, into)) return true;
  if (from.kind !== 'number' && from.kind !== 'rating') return false;
  if (into.kind === 'money' || into.kind === 'rating') return true;
  return (
    into.kind === 'number' && (into.unit === undefined || (from.kind === 'number' && from.isBare === true))
  );
}

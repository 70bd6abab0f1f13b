import { hasTrait } from './kinds';
import { Decimal } from './decimal';
import type { Money, Value, ValueType } from './value';

export const isMoney = (value: Value): value is Money =>
  typeof value === 'object' && value !== null && !Decimal.isDecimal(value) && 'currency' in value;

/** Whether two values of one type are the same; empty equals empty. */
export function sameValue(a: Value, b: Value): boolean {
  if (a === b) return true;
  if (a === null || b === null) return false;
  if (Decimal.isDecimal(a) && Decimal.isDecimal(b)) return a.equals(b);
  if (isMoney(a) && isMoney(b)) return a.currency === b.currency && a.amount.equals(b.amount);
  if (Array.isArray(a) && Array.isArray(b))
    return a.length === b.length && a.every((key, index) => key === b[index]);
  return false;
}

/** A key of a value among those of one type: the same for the same value (see `sameValue`), whatever zeros an amount ends in. */
export function valueKey(value: Exclude<Value, null>): string | boolean {
  if (typeof value === 'string' || typeof value === 'boolean') return value;
  if (Decimal.isDecimal(value)) return value.toString();
  return isMoney(value) ? `${value.amount.toString()} ${value.currency}` : value.join(' ');
}

/** Text by code point, as `COLLATE "C"` orders UTF-8; `<` would compare UTF-16 units and put U+FFFD after U+1F600. */
export function compareText(a: string, b: string): number {
  const length = Math.min(a.length, b.length);
  for (let index = 0; index < length; index += 1) {
    const left = a.charCodeAt(index);
    const right = b.charCodeAt(index);
    if (left === right) continue;
    const isLeftSurrogate = left >= 0xd800 && left <= 0xdfff;
    const isRightSurrogate = right >= 0xd800 && right <= 0xdfff;
    if (isLeftSurrogate !== isRightSurrogate) return isLeftSurrogate ? 1 : -1;
    return left < right ? -1 : 1;
  }
  return Math.sign(a.length - b.length);
}

/**
 * Order of two values of one type, neither empty: negative, zero or positive. Choices rank by the position of their
 * option. Kinds without an order (several choices, people, links) and unlike currencies are a programmer's mistake: throws.
 */
export function compareValues(type: ValueType, a: Exclude<Value, null>, b: Exclude<Value, null>): number {
  if (Decimal.isDecimal(a) && Decimal.isDecimal(b)) return a.comparedTo(b);
  if (isMoney(a) && isMoney(b) && a.currency === b.currency) return a.amount.comparedTo(b.amount);
  if (typeof a === 'boolean' && typeof b === 'boolean') return Number(a) - Number(b);
  if (type.kind === 'choice') {
    const rank = (value: unknown) => type.options.findIndex((option) => option.key === value);
    return Math.sign(rank(a) - rank(b));
  }
  if (typeof a === 'string' && typeof b === 'string' && type.kind !== 'person' && type.kind !== 'link')
    return compareText(a, b);
  throw new TypeError(`Values of kind ${type.kind} have no order`);
}

export const isOrdered = (type: ValueType): boolean => hasTrait(type.kind, 'ordered');

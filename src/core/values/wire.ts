import { isMoney } from './compare';
import { currencyPlaces } from './currencies';
import { Decimal } from './decimal';
import type { Value, ValueType, WireValue } from './value';

/** A value as it travels: numbers as strings with the places of their field, ratings as JSON numbers. */
export function toWire(type: ValueType, value: Value): WireValue {
  if (value === null) return null;
  if (isMoney(value))
    return { amount: value.amount.toFixed(currencyPlaces(value.currency)), currency: value.currency };
  if (Decimal.isDecimal(value)) {
    if (type.kind === 'rating') return value.toNumber();
    return type.kind === 'number'
      ? value.toFixed(Math.max(type.scale, value.decimalPlaces()))
      : value.toFixed();
  }
  return value as string | boolean | readonly string[];
}

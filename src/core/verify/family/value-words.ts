import { type NameOf } from '@/core/expression';
import { displayValue, parseValue, type ValueType, type WireValue } from '@/core/values';

/** A value as its field shows it. */
export function wordsOfValue(type: ValueType, value: WireValue, nameOf?: NameOf): string {
  const read = parseValue(type, value);
  return read.ok ? displayValue(type, read.value, nameOf) : String(value);
}

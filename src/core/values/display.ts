import { isMoney } from './compare';
import { currencyPlaces } from './currencies';
import { Decimal } from './decimal';
import { type Form, formInUse, writeDate, writeDigits } from './form';
import type { Kind, Value, ValueType } from './value';

/** Kinds whose values have words of their own, the same for everybody; a link or a person has only the name of another record. */
export const IN_WORDS: readonly Kind[] = [
  ...(['text', 'longText', 'choice', 'choices', 'yesNo', 'serial'] as const),
  ...(['number', 'rating', 'money', 'anyMoney', 'date', 'dateTime'] as const),
];

/**
 * A value for people, in the interface's English: `12,250.00 GBP`, `14 Mar 2026`, `Agreed`, `yes`, `empty`.
 * Links and people are shown by `nameOf`, which turns an id into a title; what has no name is somebody, or
 * a record: an id says nothing to people. Numbers and dates are written by the
 * form in use, unless another is given: what is stored is always written by the plain one.
 */
export function displayValue(
  type: ValueType,
  value: Value,
  nameOf?: (id: string) => string | undefined,
  form: Form = formInUse(),
): string {
  if (value === null) return type.kind === 'serial' ? 'given when saved' : 'empty';
  if (isMoney(value))
    return `${writeDigits(value.amount.toFixed(currencyPlaces(value.currency)), form)} ${value.currency}`;
  if (Decimal.isDecimal(value)) {
    if (type.kind === 'serial') return displaySerial(type, value);
    const scale = type.kind === 'number' ? type.scale : 0;
    const digits = writeDigits(value.toFixed(Math.max(scale, value.decimalPlaces())), form);
    return type.kind === 'number' && type.unit ? `${digits} ${type.unit}` : digits;
  }
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  switch (type.kind) {
    case 'choice':
      return optionName(type.options, value as string);
    case 'choices':
      return (value as readonly string[]).map((key) => optionName(type.options, key)).join(', ');
    case 'date':
      return writeDate(value as string, form);
    case 'dateTime':
      return `${writeDate((value as string).slice(0, 10), form)} ${(value as string).slice(11, 16)} UTC`;
    case 'person':
      return nameOf?.(value as string) ?? 'somebody';
    case 'link':
      return nameOf?.(value as string) ?? 'a record';
    default:
      return value as string;
  }
}

/** Places of a result that has more than anybody reads; what is cut off is told by three dots. */
const READ_PLACES = 6;

/** A result before it is written, which may have more places than a field: `2.5`, `3.333333…`. Otherwise as `displayValue`. */
export function displayResult(type: ValueType, value: Value): string {
  if (type.kind !== 'number' || !Decimal.isDecimal(value)) return displayValue(type, value);
  const shown = value.toDecimalPlaces(READ_PLACES, Decimal.ROUND_DOWN);
  const scale = Math.min(type.scale, shown.decimalPlaces());
  const more = shown.equals(value) ? '' : '…';
  const digits = writeDigits(shown.toFixed(scale));
  return [`${digits}${more}`, ...(type.unit ? [type.unit] : [])].join(' ');
}

export type SerialType = Extract<ValueType, { kind: 'serial' }>;

/** `INS-` with four digits and 42 → `INS-0042`; longer numbers are never cut. */
export const displaySerial = ({ prefix, digits }: SerialType, value: Decimal): string =>
  `${prefix}${value.toFixed(0).padStart(digits, '0')}`;

const optionName = (options: readonly { key: string; name: string }[], key: string): string =>
  options.find((option) => option.key === key)?.name ?? key;

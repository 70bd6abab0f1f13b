import { isMoney } from './compare';
import { currencyPlaces } from './currencies';
import { Decimal } from './decimal';
import type { Value, ValueType } from './value';

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

const grouped = (digits: string): string => {
  const [whole = '', places] = digits.split('.');
  const text = whole.replace(/\B(?=(\d{3})+$)/g, ',');
  return places === undefined ? text : `${text}.${places}`;
};

const displayDate = (date: string): string => {
  const [year, month, day] = date.split('-');
  return `${Number(day)} ${MONTHS[Number(month) - 1]} ${year}`;
};

/**
 * A value for people, in the interface's English: `12,250.00 GBP`, `14 Mar 2026`, `Agreed`, `yes`, `empty`.
 * Links and people are shown by `nameOf`, which turns an id into a title; without it the id is shown.
 */
export function displayValue(
  type: ValueType,
  value: Value,
  nameOf?: (id: string) => string | undefined,
): string {
  if (value === null) return type.kind === 'serial' ? 'given when saved' : 'empty';
  if (isMoney(value))
    return `${grouped(value.amount.toFixed(currencyPlaces(value.currency)))} ${value.currency}`;
  if (Decimal.isDecimal(value)) {
    if (type.kind === 'serial') return displaySerial(type, value);
    const scale = type.kind === 'number' ? type.scale : 0;
    const digits = grouped(value.toFixed(Math.max(scale, value.decimalPlaces())));
    return type.kind === 'number' && type.unit ? `${digits} ${type.unit}` : digits;
  }
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  switch (type.kind) {
    case 'choice':
      return optionName(type.options, value as string);
    case 'choices':
      return (value as readonly string[]).map((key) => optionName(type.options, key)).join(', ');
    case 'date':
      return displayDate(value as string);
    case 'dateTime':
      return `${displayDate((value as string).slice(0, 10))} ${(value as string).slice(11, 16)} UTC`;
    case 'person':
    case 'link':
      return nameOf?.(value as string) ?? (value as string);
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
  const [digits, ...unit] = displayValue({ ...type, scale }, shown).split(' ');
  return [`${digits}${more}`, ...unit].join(' ');
}

export type SerialType = Extract<ValueType, { kind: 'serial' }>;

/** `INS-` with four digits and 42 → `INS-0042`; longer numbers are never cut. */
export const displaySerial = ({ prefix, digits }: SerialType, value: Decimal): string =>
  `${prefix}${value.toFixed(0).padStart(digits, '0')}`;

const optionName = (options: readonly { key: string; name: string }[], key: string): string =>
  options.find((option) => option.key === key)?.name ?? key;

import { isMoney } from './compare';
import { currencyPlaces } from './currencies';
import { type Decimal, isInRange, round, type Rounding } from './decimal';
import { LONG_TEXT_LENGTH, TEXT_LENGTH } from './parse';
import type { Kind, Value, ValueType } from './value';

/** How a value of one kind is written into a field of another: as it is, or rounded to the field's places. */
export type Conversion = 'exact' | 'rounded';

/**
 * Which kind may be written into which, and how. What isn't listed is refused while a rule is written.
 *
 * | from \ into | number  | money   | rating  | date  | date-time | yes/no | choice |
 * | ----------- | ------- | ------- | ------- | ----- | --------- | ------ | ------ |
 * | number      | rounded |         | rounded |       |           |        |        |
 * | money       |         | rounded |         |       |           |        |        |
 * | rating      | exact   |         | exact   |       |           |        |        |
 * | date        |         |         |         | exact |           |        |        |
 * | date-time   |         |         |         |       | exact     |        |        |
 * | yes/no      |         |         |         |       |           | exact  |        |
 * | choice      |         |         |         |       |           |        | exact, where it has all the options |
 *
 * Money in any currency goes into the like, exactly; into one currency it comes by a rate only.
 * Several choices go into several choices that have all the options, text into text and long text, long text into long text, a person
 * into a person, a link into a link to the same type; each exactly.
 */
const CONVERSIONS: Partial<Record<Kind, Partial<Record<Kind, Conversion>>>> = {
  number: { number: 'rounded', rating: 'rounded' },
  money: { money: 'rounded' },
  rating: { number: 'exact', rating: 'exact' },
  date: { date: 'exact' },
  dateTime: { dateTime: 'exact' },
  yesNo: { yesNo: 'exact' },
  choice: { choice: 'exact' },
  choices: { choices: 'exact' },
  text: { text: 'exact', longText: 'exact' },
  longText: { longText: 'exact' },
  person: { person: 'exact' },
  anyMoney: { anyMoney: 'exact' },
  link: { link: 'exact' },
};

/** The conversion between two types, or `null` when there is none: unlike kinds, units, currencies or options. */
export function conversion(from: ValueType, into: ValueType): Conversion | null {
  if (from.kind === 'money' && into.kind === 'money' && from.currency !== into.currency) return null;
  if (from.kind === 'number' && into.kind === 'number' && from.unit !== into.unit) return null;
  if (from.kind === 'link' && into.kind === 'link' && from.target !== into.target) return null;
  if (from.kind === 'number' && into.kind === 'rating' && from.unit !== undefined) return null;
  if ((from.kind === 'choice' || from.kind === 'choices') && from.kind === into.kind) {
    const known = new Set(into.options.map(({ key }) => key));
    if (from.options.some(({ key }) => !known.has(key))) return null;
  }
  return CONVERSIONS[from.kind]?.[into.kind] ?? null;
}

/** A value, or the code of the problem that keeps it from being worked out. */
export type Outcome = { readonly value: Value } | { readonly error: ErrorCode };
export type ErrorCode = 'out_of_range' | 'input_has_problem' | 'division_by_zero' | 'missing_rate';

export const isError = (outcome: Outcome): outcome is { readonly error: ErrorCode } => 'error' in outcome;

/** Places that a field of the type keeps, or null for kinds without places. */
export const placesOf = (type: ValueType): number | null =>
  type.kind === 'number'
    ? type.scale
    : type.kind === 'money'
      ? currencyPlaces(type.currency)
      : type.kind === 'rating'
        ? 0
        : null;

/**
 * Rounds a worked-out value (first by the rule's own rounding, then to the field's places, halves away from zero) and
 * fits it into the field's type. `out_of_range`: more than 30 whole digits, or a rating outside its limits.
 */
export function fitValue(value: Value, into: ValueType, rounding: Rounding | null): Outcome {
  const places = placesOf(into);
  if (typeof value === 'string' && (into.kind === 'text' || into.kind === 'longText'))
    return value.length > (into.kind === 'text' ? TEXT_LENGTH : LONG_TEXT_LENGTH)
      ? { error: 'out_of_range' }
      : { value: value === '' ? null : value };
  if (value === null || places === null) return { value };
  const amount = isMoney(value) ? value.amount : (value as Decimal);
  const rounded = round(rounding ? round(amount, rounding) : amount, { mode: 'nearest', places });
  if (!isInRange(rounded)) return { error: 'out_of_range' };
  if (into.kind === 'rating' && (rounded.lessThan(into.lowest) || rounded.greaterThan(into.highest)))
    return { error: 'out_of_range' };
  // A plain number goes into money as an amount of its currency, where a formula writes it there.
  return { value: into.kind === 'money' ? { amount: rounded, currency: into.currency } : rounded };
}

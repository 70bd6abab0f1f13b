export { byKind, type KindTable } from '@/core/basics/by-kind';
export { canonical, sameData } from '@/core/basics/canonical';
export { certain, firstIn, foundIn, itemAt, lastIn, valueAt } from '@/core/basics/certain';
export { fold, FOLDING } from './folding';
export { compareText, compareValues, isMoney, isOrdered, sameValue, valueKey } from './compare';
export {
  conversion,
  fitValue,
  isError,
  placesOf,
  type Conversion,
  type ErrorCode,
  type Outcome,
} from './convert';
export { convertStored, isConverted, kindsInto, type Converted, type Replaced } from './convert-stored';
export { measured, unitOf, unitsDivided, unitsMultiplied } from './units';
export { CURRENCIES, currenciesIn, currencyPlaces, isCurrency } from './currencies';
export {
  Decimal,
  divide,
  DIVISION_PLACES,
  isInRange,
  median,
  percentile,
  round,
  squareRoot,
  standardDeviation,
  WHOLE_DIGITS,
  type Limits,
  type Rounding,
  type RoundingMode,
} from './decimal';
export {
  DAY_BASE_WORDS,
  DAY_BASES,
  DAY_UNIT_WORDS,
  DAY_UNITS,
  type DayBase,
  type DayOfYear,
  type DayUnit,
  FIRST_DAY,
  MONTHS,
  MOST_AWAY,
  relativeDay,
  relativeMoment,
  type RelativeDay,
  relativeWords,
  daysBetween,
  shiftDay,
  startOf,
  weekdayOf,
  workingDaysAfter,
  workingDaysBetween,
} from './time/day';
export { clockAt, dayBegins, instantsOf } from './time/clock';
export { displayResult, displaySerial, displayValue, IN_WORDS, type SerialType } from './display';
export {
  DATE_ORDERS,
  DECIMAL_MARKS,
  type Form,
  formInUse,
  formKey,
  formOfKey,
  formWords,
  GROUPING_MARKS,
  NUMBER_FORMS,
  PLAIN_FORM,
  sameForm,
  writeBy,
  writeCount,
  writeDate,
  writeDigits,
} from './form';
export {
  currencyOfHeading,
  type FileForms,
  PLAIN_FORMS,
  readText,
  type TextForms,
  typedForms,
} from './typed/read-text';
export { isUnread, type Unread } from './unread';
export { cutText, isCivilDate, isUuid, LONG_TEXT_LENGTH, parseValue, TEXT_LENGTH } from './parse';
export { PROBLEM_CODES, WHOLE_CODES, type ProblemCode } from './problem-codes';
export { bad, good, unreachable, type Problem, type Result } from './problem';
export { type Kind, type Money, type Option, type Value, type ValueType, type WireValue } from './value';
export { ALL_KINDS, hasTrait, KIND_NAMES, kindsWith, KINDS, type Trait } from './kinds';
export { toWire } from './wire';

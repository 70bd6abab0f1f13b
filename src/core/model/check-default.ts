import {
  currencyPlaces,
  firstIn,
  hasTrait,
  isCurrency,
  KIND_NAMES,
  type Option,
  parseValue,
  type SerialType,
  unreachable,
  type ValueType,
} from '@/core/values';
import type { Field, OptionList } from './model';
import { repeatedNames } from './check-names';
import { repeated } from './check-names';
import { MOST_OPTIONS } from './check-names';
import { KEY } from './check-names';
import { checkName } from './check-names';

const MOST_SCALE = 20;

export function flawOfList(type: ValueType, lists: readonly OptionList[]): string | null {
  if ((type.kind !== 'choice' && type.kind !== 'choices') || type.list === undefined) return null;
  const list = lists.find(({ key }) => key === type.list);
  if (!list) return `There is no option list “${type.list}”.`;
  const print = (options: readonly Option[]) => options.map(({ key, name }) => `${key}\n${name}`).join('\n');
  return print(list.options) === print(type.options)
    ? null
    : `Its options aren’t those of the list “${list.name}”. Change the list instead.`;
}

export function flawOfDefault(field: Field): string | null {
  if (field.default === undefined || field.default === null) return null;
  if (field.type.kind === 'link') return 'A link has no default: which record would it be?';
  if (field.type.kind === 'serial') return 'A serial number has no default: Oikon gives the next one.';
  const parsed = parseValue(field.type, field.default);
  return parsed.ok ? null : `Its default doesn’t fit: ${parsed.problem.message}`;
}

/** A serial number is always there and never given twice: nothing to ask for. */
export const flawOfGiven = (field: Field): string | null =>
  field.type.kind === 'serial' && (field.required || field.unique)
    ? 'A serial number is always given, and never twice. Leave out that it is required or unique.'
    : null;

export const flawOfUnique = (field: Field): string | null =>
  field.unique && !hasTrait(field.type.kind, 'unique')
    ? `A field of kind ${KIND_NAMES[field.type.kind]} can’t be unique.`
    : null;

export function flawOf(type: ValueType, types: ReadonlySet<string>): string | null {
  switch (type.kind) {
    case 'number':
      return isWhole(type.scale, 0, MOST_SCALE)
        ? null
        : `A number has 0 to ${MOST_SCALE} decimal places, not ${type.scale}.`;
    case 'money':
      return isCurrency(type.currency) && currencyPlaces(type.currency) >= 0
        ? null
        : `“${type.currency}” isn’t an ISO 4217 currency code.`;
    case 'rating':
      return isWhole(type.lowest, -1000, 1000) && isWhole(type.highest, type.lowest + 1, 1000)
        ? null
        : 'A rating runs over whole numbers from its lowest to a greater highest.';
    case 'choice':
    case 'choices':
      return flawOfOptions(type.options);
    case 'link':
      return types.has(type.target) ? null : `It links to a type “${type.target}” that doesn’t exist.`;
    case 'serial':
      return flawOfSerial(type);
    case 'text':
    case 'longText':
    case 'yesNo':
    case 'date':
    case 'dateTime':
    case 'person':
    case 'anyMoney':
      return null;
    default:
      return unreachable(type);
  }
}

const MOST_PREFIX = 20;

const MOST_DIGITS = 12;

function flawOfSerial({ prefix, digits }: SerialType): string | null {
  if (prefix.length > MOST_PREFIX || !prefix.isWellFormed() || /\p{Cc}|^\s|\d$/u.test(prefix))
    return `A serial number’s prefix has at most ${MOST_PREFIX} characters on one line, without a blank at its start or a digit at its end.`;
  return isWhole(digits, 1, MOST_DIGITS)
    ? null
    : `A serial number is shown with 1 to ${MOST_DIGITS} digits, not ${digits}.`;
}

const isWhole = (value: number, least: number, most: number): boolean =>
  Number.isInteger(value) && value >= least && value <= most;

export function flawOfOptions(options: readonly Option[]): string | null {
  if (options.length === 0) return 'A choice needs at least one option.';
  if (options.length > MOST_OPTIONS) return `A choice has at most ${MOST_OPTIONS} options.`;
  const [same] = repeatedNames(options.map(({ name }) => name));
  if (same !== undefined) return `Two options have the name “${same}”. Rename one.`;
  const unnamed = options.find(({ name }) => checkName(name, '').length > 0);
  if (unnamed) return firstIn(checkName(unnamed.name, '')).message;
  const twice = repeated(options.map((option) => option.key));
  if (twice.length > 0) return `The option “${twice[0]}” is there twice.`;
  const wrong = options.find((option) => !KEY.test(option.key));
  return wrong
    ? `The option key “${wrong.key}” should start with a small letter and have at most 30 letters and digits.`
    : null;
}

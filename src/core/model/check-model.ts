import {
  currencyPlaces,
  isCurrency,
  type Option,
  type Problem,
  unreachable,
  type ValueType,
} from '../values';
import type { Field, ModelDefinition, RecordType } from './model';

/** Letters and digits, starting with a small letter: short enough for a column's name in PostgreSQL (63 bytes). */
const KEY = /^[a-z][a-zA-Z0-9]{0,29}$/;

/** Keys that every record has already. */
const RESERVED = new Set([
  'id',
  'type',
  'version',
  'createdRun',
  'changedRun',
  'deletedRun',
  'deletedWith',
  'problems',
]);

/** Keys of types that would take the name of a table that Oikon keeps beside them. */
const RESERVED_TYPES = new Set([
  'run',
  'rule',
  'ledger',
  'problem',
  'state',
  'migration',
  'modelVersion',
  'ruleVersion',
]);

const MOST_SCALE = 20;

/** Everything wrong with a model, each with its place (`exhibition.insuredTotal`); empty when it can be used. */
export function checkModel(model: ModelDefinition): Problem[] {
  const keys = new Set(model.types.map((type) => type.key));
  return [
    ...repeated(model.types.map((type) => type.key)).map((key) =>
      problem('model.repeated', key, `Two types have the key “${key}”.`),
    ),
    ...model.types.flatMap((type) => checkType(type, keys)),
  ];
}

const problem = (code: string, place: string, message: string): Problem => ({ code, place, message });

const repeated = (keys: readonly string[]): string[] => [
  ...new Set(keys.filter((key, index) => keys.indexOf(key) !== index)),
];

function checkType(type: RecordType, types: ReadonlySet<string>): Problem[] {
  const title = type.fields.find((field) => field.key === type.title);
  return [
    ...checkKey(type.key, type.key, RESERVED_TYPES),
    ...repeated(type.fields.map((field) => field.key)).map((key) =>
      problem(
        'model.repeated',
        `${type.key}.${key}`,
        `“${type.name}” has two fields with the key “${key}”. Rename one.`,
      ),
    ),
    ...(title?.type.kind === 'text' && title.required
      ? []
      : [
          problem(
            'model.title',
            type.key,
            `“${type.name}” is named by “${type.title}”, which must be a required text field of it.`,
          ),
        ]),
    ...type.fields.flatMap((field) => checkField(type, field, types)),
  ];
}

function checkKey(key: string, place: string, reserved: ReadonlySet<string>): Problem[] {
  if (KEY.test(key) && !reserved.has(key)) return [];
  const message = reserved.has(key)
    ? `The key “${key}” is Oikon’s own. Choose another.`
    : `The key “${key}” should start with a small letter and have at most 30 letters and digits.`;
  return [problem('model.key', place, message)];
}

function checkField(type: RecordType, field: Field, types: ReadonlySet<string>): Problem[] {
  const place = `${type.key}.${field.key}`;
  const flaw = flawOf(field.type, types);
  const other =
    field.type.kind === 'link' && !field.otherEnd ? 'A link needs a name for its other end.' : null;
  return [
    ...checkKey(field.key, place, RESERVED),
    ...(flaw ? [problem('model.field', place, flaw)] : []),
    ...(other ? [problem('model.otherEnd', place, other)] : []),
    ...(field.required && field.whenParentGoes === 'clear'
      ? [
          problem(
            'model.policy',
            place,
            'A required link can’t be cleared when its parent goes. Refuse, or delete too.',
          ),
        ]
      : []),
  ];
}

function flawOf(type: ValueType, types: ReadonlySet<string>): string | null {
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
    case 'text':
    case 'longText':
    case 'yesNo':
    case 'date':
    case 'dateTime':
    case 'person':
      return null;
    default:
      return unreachable(type);
  }
}

const isWhole = (value: number, least: number, most: number): boolean =>
  Number.isInteger(value) && value >= least && value <= most;

function flawOfOptions(options: readonly Option[]): string | null {
  if (options.length === 0) return 'A choice needs at least one option.';
  const twice = repeated(options.map((option) => option.key));
  if (twice.length > 0) return `The option “${twice[0]}” is there twice.`;
  const wrong = options.find((option) => !KEY.test(option.key));
  return wrong
    ? `The option key “${wrong.key}” should start with a small letter and have at most 30 letters and digits.`
    : null;
}

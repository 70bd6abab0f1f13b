import { type Problem, type ProblemCode } from '@/core/values';

/** Letters and digits, starting with a small letter: short enough for a column's name in PostgreSQL (63 bytes). */
export const KEY = /^[a-z][a-zA-Z0-9]{0,29}$/;

/** Keys that every record has already. */
export const RESERVED: ReadonlySet<string> = new Set([
  'id',
  'type',
  'version',
  'createdRun',
  'changedRun',
  'deletedRun',
  'deletedWith',
  'problems',
]);

export const MOST_OPTIONS = 500;

const NAME_LENGTH = 80;

/** Names are shown in sentences and messages: something to read, on one line, and not too long. */
export function checkName(name: string, place: string): Problem[] {
  const isGood =
    typeof name === 'string' &&
    name.trim() === name &&
    name.length > 0 &&
    name.length <= NAME_LENGTH &&
    name.isWellFormed() &&
    !/\p{Cc}/u.test(name);
  if (isGood) return [];
  return [
    problem(
      'model.name',
      place,
      `A name has 1 to ${NAME_LENGTH} characters on one line, without blanks at its ends; found “${String(name).slice(0, NAME_LENGTH)}”.`,
    ),
  ];
}

export const problem = (code: ProblemCode, place: string, message: string): Problem => ({
  code,
  place,
  message,
});

export const repeatedNames = (names: readonly string[]): string[] =>
  repeated(names.map((name) => name.toLowerCase()));

export const repeated = (keys: readonly string[]): string[] => [
  ...new Set(keys.filter((key, index) => keys.indexOf(key) !== index)),
];

export function checkKey(key: string, place: string, reserved: ReadonlySet<string> = NONE): Problem[] {
  if (KEY.test(key) && !reserved.has(key)) return [];
  const message = reserved.has(key)
    ? `The key “${key}” is Oikon’s own. Choose another.`
    : `The key “${key}” should start with a small letter and have at most 30 letters and digits.`;
  return [problem('model.key', place, message)];
}

/** Types may be called anything: names of Oikon's own tables begin with an underscore. */
export const NONE: ReadonlySet<string> = new Set();

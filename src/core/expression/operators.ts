import { ALL_KINDS, type Kind, kindsWith } from '@/core/values';
import type {
  AmongOperator,
  CompareOperator,
  MatchOperator,
  PresenceOperator,
} from '@/core/syntax/expression';

export type Operator = CompareOperator | PresenceOperator | AmongOperator | MatchOperator;

/** What stands to the right of an operator: one value (a constant or another field), several constants, or nothing. */
export type RightSide = 'one' | 'several' | 'nothing';

export interface OperatorEntry {
  readonly operator: Operator;
  readonly right: RightSide;
  readonly words: string;
  /** Words where a kind reads better with its own: dates are before and after, not less and more. */
  readonly wordsFor?: Partial<Record<Kind, string>>;
  readonly kinds: readonly Kind[];
}

const EQUATED: readonly Kind[] = ALL_KINDS.filter((kind) => kind !== 'choices');
const RANKED = kindsWith('ordered');
const LISTED = kindsWith('listed');
const DATES = (words: string) => ({ date: words, dateTime: words });

/** Every operator of a test, the kinds it takes on its left, and its words: the builder, the checker and the words read this. */
export const OPERATORS: readonly OperatorEntry[] = [
  { operator: '=', right: 'one', words: 'is', kinds: EQUATED },
  { operator: '!=', right: 'one', words: 'is not', kinds: EQUATED },
  { operator: 'isAmong', right: 'several', words: 'is among', kinds: LISTED },
  { operator: 'isNotAmong', right: 'several', words: 'is not among', kinds: LISTED },
  {
    operator: '<',
    right: 'one',
    words: 'is less than',
    wordsFor: { ...DATES('is before'), choice: 'comes before' },
    kinds: RANKED,
  },
  {
    operator: '<=',
    right: 'one',
    words: 'is at most',
    wordsFor: { ...DATES('is on or before'), choice: 'is or comes before' },
    kinds: RANKED,
  },
  {
    operator: '>',
    right: 'one',
    words: 'is more than',
    wordsFor: { ...DATES('is after'), choice: 'comes after' },
    kinds: RANKED,
  },
  {
    operator: '>=',
    right: 'one',
    words: 'is at least',
    wordsFor: { ...DATES('is on or after'), choice: 'is or comes after' },
    kinds: RANKED,
  },
  {
    operator: 'contains',
    right: 'one',
    words: 'contains',
    wordsFor: { choices: 'includes' },
    kinds: ['text', 'longText', 'choices'],
  },
  { operator: 'startsWith', right: 'one', words: 'starts with', kinds: ['text', 'longText'] },
  { operator: 'isEmpty', right: 'nothing', words: 'is empty', kinds: ALL_KINDS },
  { operator: 'isNotEmpty', right: 'nothing', words: 'is not empty', kinds: ALL_KINDS },
];

export const operatorsFor = (kind: Kind): readonly OperatorEntry[] =>
  OPERATORS.filter((entry) => entry.kinds.includes(kind));

export const operatorEntry = (operator: Operator): OperatorEntry => {
  const entry = OPERATORS.find((candidate) => candidate.operator === operator);
  if (!entry) throw new ReferenceError(`There is no operator “${operator}”`);
  return entry;
};

export const operatorWords = (operator: Operator, kind: Kind): string => {
  const entry = operatorEntry(operator);
  return entry.wordsFor?.[kind] ?? entry.words;
};

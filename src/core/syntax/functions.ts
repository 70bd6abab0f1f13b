import { type Decimal, firstIn, IN_WORDS, type Kind, type Value } from '@/core/values';
import { DATE_FUNCTIONS } from './date-functions';
import {
  type FunctionEntry,
  isMoney,
  number,
  one,
  own,
  type Parameter,
  type Present,
} from './function-entry';
import { NUMBER_FUNCTIONS } from './number-functions';
import { TEXT_FUNCTIONS } from './text-functions';

export type { Example, Parameter } from './function-entry';
export { MOST_WORKING_DAYS, WEEKDAYS } from './date-functions';
export { BLANKS } from './text-functions';

const amountIn = (value: Present): Decimal => (isMoney(value) ? value.amount : number(value));
const extreme = (values: readonly Value[], sign: 1 | -1): Value =>
  values.reduce<Value>(
    (best, one) =>
      one !== null && (best === null || amountIn(one).comparedTo(amountIn(best)) * sign > 0) ? one : best,
    null,
  );

/**
 * Every function of the notation but those of lists: what it takes, what it gives, its help and examples. Named as in the FEEL of
 * DMN 1.5 where it has them. The editor, the checker, the evaluator and SQL are held to it.
 */
export const FUNCTIONS = {
  ...NUMBER_FUNCTIONS,
  ...TEXT_FUNCTIONS,
  ...DATE_FUNCTIONS,
  exchange: {
    parameters: [one('amount', 'money'), one('currency', 'text'), one('day', 'date')],
    help: 'An amount in another currency, such as exchange(insuredValue, "GBP", today()): by the workspace’s rate of that day, or the last one of the 7 days before it. Without one it has a problem, which clears itself once there is.',
    examples: [],
    gives: own,
    work: () => {
      throw new RangeError('An exchange needs rates');
    },
  },
  min: {
    parameters: [{ name: 'value', takes: 'number or money', isRepeated: true }],
    help: 'The smallest of these; empty ones are left out.',
    examples: [['min(3, 1, 2)', '1']],
    gives: own,
    work: firstIn,
    workEmpty: (values) => extreme(values, -1),
  },
  max: {
    parameters: [{ name: 'value', takes: 'number or money', isRepeated: true }],
    help: 'The largest of these; empty ones are left out.',
    examples: [['max(3, 1, 2)', '3']],
    gives: own,
    work: firstIn,
    workEmpty: (values) => extreme(values, 1),
  },
  'first present': {
    parameters: [{ name: 'value', takes: 'anything', isRepeated: true }],
    help: 'The first of these that isn’t empty.',
    examples: [['first present(null, 3, 4)', '3']],
    gives: own,
    work: firstIn,
    workEmpty: (values) => values.find((value) => value !== null) ?? null,
  },
} satisfies Record<string, FunctionEntry>;

export type FunctionName = keyof typeof FUNCTIONS;

/** Works with the workspace's rates: typed and worked out in `exchange.ts`. */
export const EXCHANGE: FunctionName = 'exchange';

/** A number that is written with its unit: read as a constant. */
export const AMOUNT = 'amount';

export const isFunction = (name: string): name is FunctionName => Object.hasOwn(FUNCTIONS, name);
export const functionEntry = (name: FunctionName): FunctionEntry => FUNCTIONS[name];

/** Functions of lists, by which the records beneath are gathered. */
export const LIST_FUNCTIONS = {
  count: { aggregate: 'count', help: 'How many there are.', example: 'count(loans[stage = "agreed"])' },
  sum: { aggregate: 'sum', help: 'Their sum; 0 where there are none.', example: 'sum(loans.insuredValue)' },
  mean: {
    aggregate: 'average',
    help: 'Their average; empty where there are none.',
    example: 'mean(loans.fee)',
  },
  median: {
    aggregate: 'median',
    help: 'The one in the middle, put in order; of an even number halfway between the two in the middle. Empty where there are none.',
    example: 'median(loans.fee)',
  },
  stddev: {
    aggregate: 'deviation',
    help: 'Their standard deviation, as of a sample: by one less than there are. Empty of fewer than two.',
    example: 'stddev(loans.fee)',
  },
  min: {
    aggregate: 'minimum',
    help: 'The smallest of them; empty where there are none.',
    example: 'min(loans.dueBack)',
  },
  max: {
    aggregate: 'maximum',
    help: 'The largest of them; empty where there are none.',
    example: 'max(loans.dueBack)',
  },
  all: {
    aggregate: 'all',
    help: 'Whether all of them are yes; yes where there are none.',
    example: 'all(crates.sealed)',
  },
  any: {
    aggregate: 'any',
    help: 'Whether any of them is yes; no where there are none.',
    example: 'any(crates.sealed)',
  },
  'count distinct': {
    aggregate: 'countDistinct',
    help: 'How many different values there are.',
    example: 'count distinct(loans.lender)',
  },
} as const;

export type ListFunction = keyof typeof LIST_FUNCTIONS;
export const isListFunction = (name: string): name is ListFunction => Object.hasOwn(LIST_FUNCTIONS, name);

export const KINDS_TAKEN: Readonly<Record<Parameter['takes'], readonly Kind[] | null>> = {
  number: ['number', 'rating'],
  'whole number': ['number', 'rating'],
  text: ['text', 'longText'],
  date: ['date'],
  'date and time': ['dateTime'],
  'number or money': ['number', 'rating', 'money'],
  money: ['money', 'anyMoney'],
  'a number, a date, a text, a choice or a yes/no': [
    ...(['number', 'rating', 'date', 'dateTime', 'text', 'longText', 'choice', 'yesNo'] as const),
  ],
  // An amount of any currency has as many places as its own, which SQL doesn't know.
  'a value that has words of its own': IN_WORDS.filter((kind) => kind !== 'anyMoney'),
  anything: null,
};

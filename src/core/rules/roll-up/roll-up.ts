import type { Expression, Typed, TypedField } from '@/core/expression';
import type { Pace, Step, StepDown } from '@/core/model';
import {
  kindsWith,
  type Limits,
  type Rounding,
  type Value,
  type ValueType,
  type WireValue,
} from '@/core/values';
import type { CompiledBase } from '@/core/rules/shared/base';
import { type CompiledMap, type ResultMap } from '@/core/rules/shared/result-pipeline';
import type { FieldRead, GatherAggregate } from '@/core/syntax/expression';

/** What an expression can gather, and what only a roll-up gives. */
export type Aggregate =
  GatherAggregate | 'range' | 'percentile' | 'none' | 'best' | 'worst' | 'first' | 'last' | 'joined';

/** Records that a roll-up brings together, as it is written. */
export interface RollUpSource {
  /**
   * From the parent down, over one link or several, to the records that are brought together; over a bridge it ends with steps up,
   * to the records at its far end.
   */
  readonly route: readonly Step[];
  /** What is brought together, worked out on the lowest records of the route; `null` where records are counted. */
  readonly value: Expression | null;
  /** Which of them count; `null` for all. Read on the lowest records of the route, and up their links. */
  readonly condition: Expression | null;
  /** Over a bridge: whether a record that is reached on several ways counts for each of them, rather than once. */
  readonly isEveryWay?: boolean;
  /** For the first and the last: by what they are put in order; where that is the same, by the next, and in the end by their ids. */
  readonly order?: readonly FieldRead[];
}

/** How texts are joined. */
export interface Joining {
  readonly separator: string;
  /** Each text once, in the order of the texts themselves. */
  readonly isDistinct?: boolean;
  /** From the last by the order to the first: with `most` the largest, or the latest, few. */
  readonly isFromLast?: boolean;
  /** So many at most; the others are told as “and 7 more”. */
  readonly most?: number | null;
}

/** What the record itself gives, beside the records that are brought together; each is a field of it, or of one up its links. */
export interface OwnValues {
  /** Is brought together with what they give. */
  readonly adds?: FieldRead | null;
  /** Is the result where it is entered, whatever they give. */
  readonly standsIn?: FieldRead | null;
  /** Is the result where none of them count. */
  readonly whenNone?: FieldRead | null;
}

/** A further field of the record that leads, and where it is kept. */
export interface Together {
  readonly target: string;
  /** What is taken: of the rule's first records, then of each further ones. */
  readonly values: readonly (Expression | null)[];
}

/** What is brought together apart for each option of a choice: “beds by stage”. */
export interface PerOption {
  /** The choice, read on the records that are brought together. */
  readonly by: FieldRead;
  /** The option whose records go into the rule's target; `null` of those where none is chosen. */
  readonly option: string | null;
  /** Further options, each with the field that is kept of its records. */
  readonly others: readonly OptionTarget[];
}

export interface OptionTarget {
  readonly option: string | null;
  readonly target: string;
}

/** Child values to a parent, as it is written, stored and sent: plain data. */
export interface RollUp extends RollUpSource {
  readonly kind: 'rollUp';
  /** The parent type, and the field of it that is kept. */
  readonly type: string;
  readonly target: string;
  readonly aggregate: Aggregate;
  /**
   * Further records that are brought together with the first. One that reads the target itself, on the records beneath over a self
   * link or over a bridge of the type with itself, makes the rule go all the way down.
   */
  readonly also?: readonly RollUpSource[];
  readonly own?: OwnValues;
  /** For joined text. */
  readonly joining?: Joining;
  /** For a percentile: under how many in a hundred lie, a whole number of 1 to 99. */
  readonly percent?: number;
  /** For the first and last: further fields that are taken from the same record. */
  readonly together?: readonly Together[];
  /** Of one kind of records that are counted, summed up and so on apart, for each option with a field of its own. */
  readonly perOption?: PerOption;
  /** What stands when nothing counts, as a value of the target; `null` is empty. */
  readonly whenNone: WireValue;
  /** Rounds the result before it is fitted to the target's own places; `null` for the target's alone. */
  readonly rounding: Rounding | null;
  readonly limits?: Limits | null;
  /** From the result to what is written; left out where the result itself is. */
  readonly map?: ResultMap | null;
  /** Of a rule that reacts (its map may leave the target as it is): on which records it does, as they stand then; `null` for all. */
  readonly appliesWhen?: Expression | null;
  /** Where several rules react into one field: the lower the number, the sooner; the others give way to it. Left out it comes last. */
  readonly precedence?: number;
  readonly pace: Pace;
}

/** Records that a roll-up brings together, checked and typed. */
export interface CompiledSource {
  readonly definition: RollUpSource;
  /** Its route as a key: sources with the same key have the same members. */
  readonly key: string;
  /** Down to its members: the records on which value and condition are read. */
  readonly route: readonly StepDown[];
  /** The type of its members. */
  readonly type: string;
  /** Where each record at the far end of a bridge counts once: the link that names it. */
  readonly once: TypedField | null;
  readonly value: Typed | null;
  readonly condition: Typed | null;
  /** By what its members are put in order; none where the rule doesn't ask for the first or last. */
  readonly order: readonly TypedField[];
  /** Whether it brings in what the rule itself gives further down. */
  readonly isRecursive: boolean;
  /** Whether nothing is read but the members' own fields. */
  readonly isOwn: boolean;
}

/** A roll-up that has been checked and typed: what the evaluator, SQL and the engine work from. */
export interface CompiledRollUp extends CompiledBase {
  readonly kind: 'rollUp';
  readonly definition: RollUp;
  readonly aggregate: Aggregate;
  readonly sources: readonly CompiledSource[];
  readonly own: {
    readonly adds: TypedField | null;
    readonly standsIn: TypedField | null;
    readonly whenNone: TypedField | null;
  };
  /** What is brought together, of whatever source; `null` where records are counted. */
  readonly valueType: ValueType | null;
  /** Of a rule that reacts empty leaves the target as it is. */
  readonly whenNone: Value;
  /** What the aggregate yields, before it is fitted to the target. */
  readonly resultType: ValueType;
  /** The same rule for each further field that is taken from the same record; each stands for itself in the plan. */
  readonly together: readonly CompiledRollUp[];
  /** Of what is brought together apart for each option: which of them this is. Its source asks for it beside its own condition. */
  readonly share?: Share;
  readonly map: CompiledMap | null;
  /** On which records a rule that reacts does; `null` for all. */
  readonly appliesWhen: Typed | null;
  /** In a pilot, of one that doesn't react: on which records it keeps the field. Left out for all. */
  readonly claims?: Typed;
}

/** The option of a rule that keeps one field for each. */
export interface Share {
  readonly by: TypedField;
  readonly option: string | null;
  /** What the rule asks of the records of all options; `null` for nothing. */
  readonly condition: Typed | null;
}

/** The same rule as it gives its result, whatever is written for that: empty where nothing counts. */
export const givingResult = (rule: CompiledRollUp): CompiledRollUp => ({
  ...rule,
  ...{ map: null, appliesWhen: null, whenNone: null },
  target: { ...rule.target, type: rule.resultType },
});

interface AggregateTraits {
  readonly words: string;
  /** What stands between its words and the value; `of ` where it isn't said. */
  readonly of?: '';
  /** Kinds of value that it takes; empty for the count, which takes none. */
  readonly kinds: readonly ValueType['kind'][];
  readonly resultType: (value: ValueType | null) => ValueType;
  /** It asks whether members are so, rather than what they come to: the sentence reads otherwise. */
  readonly isQuestion?: boolean;
  /** It takes the value of the one that leads by an order. */
  readonly isOrdered?: boolean;
  /** Its members may be put in order. */
  readonly mayOrder?: boolean;
  /** What it gives for a part can be brought together again for the whole, as totals of totals. */
  readonly isOfItself?: boolean;
}

export interface AggregateEntry extends AggregateTraits {
  readonly aggregate: Aggregate;
}

const COUNTED: ValueType = { kind: 'number', scale: 0 };
const ANSWER: ValueType = { kind: 'yesNo' };
const own = (value: ValueType | null): ValueType => value ?? COUNTED;

/** Sums keep their places; an average has 20 before it is rounded to its target; a rating averages to a number. */
const averaged = (value: ValueType | null): ValueType =>
  value?.kind === 'money'
    ? value
    : { kind: 'number', scale: 20, ...(value?.kind === 'number' && value.unit ? { unit: value.unit } : {}) };

/** Between ratings lie whole numbers. */
const between = (value: ValueType | null): ValueType => (value?.kind === 'rating' ? COUNTED : own(value));

const AMOUNTS = kindsWith('amount');
const ORDERED: readonly ValueType['kind'][] = [...AMOUNTS, 'date', 'dateTime'];
const TOLD_APART: readonly ValueType['kind'][] = ['text', ...ORDERED, 'choice', 'person', 'link', 'anyMoney'];
const TAKEN_WHOLE: readonly ValueType['kind'][] = [
  ...ORDERED,
  ...(['text', 'longText', 'yesNo', 'choice', 'person', 'anyMoney'] as const),
];
/** Kinds by which records are put in order; choices go by the places of their options. */
export const ORDERING: readonly ValueType['kind'][] = [...ORDERED, 'choice', 'text', 'serial'];
const question = (words: 'all' | 'any' | 'none'): AggregateTraits => ({
  ...{ words, kinds: ['yesNo'], resultType: () => ANSWER, isQuestion: true },
  isOfItself: true,
});

/**
 * Every aggregate, what it takes and what it yields: the sentence, the checker, the evaluator and SQL are held to it. Of a choice the
 * first option is the best and the last the worst.
 */
const TRAITS = {
  count: { words: 'count', kinds: [], resultType: () => COUNTED, isOfItself: true },
  countDistinct: { words: 'number of different', of: '', kinds: TOLD_APART, resultType: () => COUNTED },
  sum: { words: 'sum', kinds: ['number', 'money'], resultType: own, isOfItself: true },
  average: { words: 'average', kinds: AMOUNTS, resultType: averaged },
  median: { words: 'median', kinds: AMOUNTS, resultType: averaged },
  percentile: { words: 'percentile', kinds: AMOUNTS, resultType: averaged },
  deviation: { words: 'standard deviation', kinds: AMOUNTS, resultType: averaged },
  minimum: { words: 'minimum', kinds: ORDERED, resultType: own, isOfItself: true },
  maximum: { words: 'maximum', kinds: ORDERED, resultType: own, isOfItself: true },
  range: { words: 'range', kinds: AMOUNTS, resultType: between },
  all: question('all'),
  any: question('any'),
  none: question('none'),
  best: { words: 'best', kinds: ['choice'], resultType: own, isOfItself: true },
  first: { words: 'first', kinds: TAKEN_WHOLE, resultType: own, isOrdered: true },
  last: { words: 'last', kinds: TAKEN_WHOLE, resultType: own, isOrdered: true },
  joined: {
    ...{ words: 'joined text', kinds: ['text', 'longText'], resultType: () => ({ kind: 'text' }) },
    mayOrder: true,
  },
  worst: { words: 'worst', kinds: ['choice'], resultType: own, isOfItself: true },
} satisfies Readonly<Record<Aggregate, AggregateTraits>>;

const entryOf = (aggregate: Aggregate): AggregateEntry => ({ aggregate, ...TRAITS[aggregate] });

/** The same as a list, in the order in which they are offered. */
export const AGGREGATES: readonly AggregateEntry[] = (Object.keys(TRAITS) as Aggregate[]).map(entryOf);

const ENTRIES = Object.fromEntries(AGGREGATES.map((entry) => [entry.aggregate, entry])) as Readonly<
  Record<Aggregate, AggregateEntry>
>;

export const isAggregate = (name: string): name is Aggregate => Object.hasOwn(TRAITS, name);

export const aggregateEntry = (aggregate: Aggregate): AggregateEntry => ENTRIES[aggregate];

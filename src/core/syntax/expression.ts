import type { StepDown } from './step';
import type { FunctionName } from './functions';
import type { RelativeDay, Value, ValueType, WireValue } from '@/core/values';

export type CompareOperator = '=' | '!=' | '<' | '<=' | '>' | '>=';
export type PresenceOperator = 'isEmpty' | 'isNotEmpty';
export type AmongOperator = 'isAmong' | 'isNotAmong';
export type MatchOperator = 'contains' | 'startsWith';
export type SelectionOperator = 'isIn' | 'isNotIn';
export type GroupOperator = 'all' | 'any' | 'none';
export type ArithmeticOperator = '+' | '-' | '*' | '/';

/** What can be made of the records beneath within an expression. */
export type GatherAggregate =
  | 'count'
  | 'countDistinct'
  | 'sum'
  | 'average'
  | 'median'
  | 'deviation'
  | 'minimum'
  | 'maximum'
  | 'all'
  | 'any';

/** First or last by a field, what has none of it last; without one in the order in which records were made. */
export interface OrderOf {
  readonly field: TypedField | null;
  readonly isLast: boolean;
}

/** Which of the records that are gathered count beside their condition, and which of them leads: only a cascade kept in step asks so. */
export interface Leading {
  readonly order: OrderOf | null;
  /** By what those are told apart that are the same by the order: the id of the record that leads. */
  readonly id: TypedField;
  /** Its own id, where the record at hand is left out. */
  readonly apart: TypedField | null;
  /** Fields in which one must have the same as the record at hand, neither of them empty. */
  readonly same: readonly { readonly own: TypedField; readonly theirs: TypedField }[];
}

/**
 * What there is beside records: of a run the person whose change it is, and the instant at which it is made; of a role whoever looks.
 */
export type OfRun = 'person' | 'moment' | 'me';

/** Whether an expression may read what there is beside records: `true` that of a run, `'me'` who looks. */
export type RunReading = boolean | 'me';

/** How an arithmetic operator works on its kinds. */
export type Working = 'amounts' | 'texts' | 'days' | 'months' | 'daysBetween';

/**
 * The expression tree as it is written, stored and sent: plain data. A field is read on the record itself (`route` empty)
 * or on a record up its links. A constant takes its kind from what it is compared with.
 */
export type Expression =
  /** `type` is of a constant that has a kind by itself, as one in FEEL text has; others take it from what they are compared with. */
  | { readonly kind: 'constant'; readonly value: WireValue; readonly type?: ValueType }
  | { readonly kind: 'field'; readonly route: readonly string[]; readonly field: string }
  | {
      readonly kind: 'compare';
      readonly operator: CompareOperator;
      readonly left: Expression;
      readonly right: Expression;
    }
  | { readonly kind: 'presence'; readonly operator: PresenceOperator; readonly operand: Expression }
  | {
      readonly kind: 'among';
      readonly operator: AmongOperator;
      readonly operand: Expression;
      readonly options: readonly WireValue[];
    }
  | {
      readonly kind: 'match';
      readonly operator: MatchOperator;
      readonly operand: Expression;
      readonly part: Expression;
    }
  | { readonly kind: 'group'; readonly operator: GroupOperator; readonly of: readonly Expression[] }
  /** FEEL text, read as the expression that it stands for. */
  | { readonly kind: 'feel'; readonly text: string }
  | {
      readonly kind: 'arithmetic';
      readonly operator: ArithmeticOperator;
      readonly left: Expression;
      readonly right: Expression;
    }
  | { readonly kind: 'negate'; readonly operand: Expression }
  | {
      readonly kind: 'if';
      readonly condition: Expression;
      readonly then: Expression;
      readonly otherwise: Expression;
    }
  | { readonly kind: 'call'; readonly name: FunctionName; readonly arguments: readonly Expression[] }
  /** What records beneath come to: reached by links up, and from there by steps down. */
  | {
      readonly kind: 'gather';
      readonly aggregate: GatherAggregate;
      readonly up: readonly string[];
      readonly down: readonly StepDown[];
      /** Read on the lowest of them; `null` where they are counted. */
      readonly value: Expression | null;
      readonly condition: Expression | null;
    }
  /** A date relative to the settled day. */
  | ({ readonly kind: 'day' } & RelativeDay)
  /** Who makes the change of the run, or when: only what reacts may read it. Who looks: only what a role sees may. */
  | { readonly kind: 'ofRun'; readonly what: OfRun }
  /** Whether the record at hand, or one up its links, is in a selection. */
  | {
      readonly kind: 'selection';
      readonly operator: SelectionOperator;
      readonly route: readonly string[];
      readonly selection: string;
    };

/**
 * The same tree once it is typed: constants are values, every node knows what it yields. The evaluator, SQL, the words
 * for people and the list of what is read all work from this form.
 *
 * Logic is two-valued: comparing with empty is false (so is `!=`), `isNotAmong` is true for empty, an empty group of
 * `all` or `none` holds, of `any` does not.
 */
export type Typed =
  | {
      readonly kind: 'constant';
      readonly type: ValueType;
      readonly value: Value;
      /** What stands for it in words: a relative date, as of the settled day. */
      readonly words?: string;
    }
  | {
      readonly kind: 'field';
      readonly type: ValueType;
      /** The type of the record at hand, and the type at the end of the route, which has the field. */
      readonly from: string;
      readonly owner: string;
      readonly route: readonly string[];
      readonly field: string;
    }
  | {
      readonly kind: 'compare';
      readonly type: ValueType;
      readonly operator: CompareOperator;
      readonly left: Typed;
      readonly right: Typed;
    }
  | {
      readonly kind: 'presence';
      readonly type: ValueType;
      readonly operator: PresenceOperator;
      readonly operand: Typed;
    }
  | {
      readonly kind: 'among';
      readonly type: ValueType;
      readonly operator: AmongOperator;
      readonly operand: Typed;
      readonly options: readonly Exclude<Value, null>[];
    }
  | {
      readonly kind: 'match';
      readonly type: ValueType;
      readonly operator: MatchOperator;
      readonly operand: Typed;
      readonly part: Typed;
    }
  | {
      readonly kind: 'group';
      readonly type: ValueType;
      readonly operator: GroupOperator;
      readonly of: readonly Typed[];
    }
  | {
      readonly kind: 'arithmetic';
      readonly type: ValueType;
      readonly operator: ArithmeticOperator;
      readonly working: Working;
      readonly left: Typed;
      readonly right: Typed;
    }
  | { readonly kind: 'negate'; readonly type: ValueType; readonly operand: Typed }
  | {
      readonly kind: 'if';
      readonly type: ValueType;
      readonly condition: Typed;
      readonly then: Typed;
      readonly otherwise: Typed;
    }
  | {
      readonly kind: 'call';
      readonly type: ValueType;
      readonly name: FunctionName;
      readonly arguments: readonly Typed[];
    }
  | {
      readonly kind: 'gather';
      readonly type: ValueType;
      /** `leading`: the value of the one that leads. */
      readonly aggregate: GatherAggregate | 'leading';
      /** The type of the record at hand, and of the records that are gathered. */
      readonly from: string;
      readonly member: string;
      readonly up: readonly string[];
      readonly down: readonly StepDown[];
      readonly value: Typed | null;
      readonly condition: Typed | null;
      readonly leading?: Leading;
    }
  /** An amount in another currency, by the rate of a day. */
  | {
      readonly kind: 'exchange';
      readonly type: ValueType;
      readonly amount: Typed;
      readonly day: Typed;
      /** The type whose records are rates, and its fields. */
      readonly rates: {
        readonly type: string;
        readonly pair: TypedField;
        readonly day: TypedField;
        readonly rate: TypedField;
      };
    }
  | { readonly kind: 'ofRun'; readonly type: ValueType; readonly what: OfRun }
  | {
      readonly kind: 'selection';
      readonly type: ValueType;
      readonly operator: SelectionOperator;
      readonly from: string;
      readonly route: readonly string[];
      readonly name: string;
      /** The selection's own condition, read from the record at hand. */
      readonly of: Typed;
    };

export type TypedGather = Extract<Typed, { kind: 'gather' }>;
export type TypedExchange = Extract<Typed, { kind: 'exchange' }>;
export type TypedField = Extract<Typed, { kind: 'field' }>;

export const YES_NO: ValueType = { kind: 'yesNo' };

/** Stands for a field that holds the record's own id: in what Oikon makes of a pilot, never in what people write. */
export const RECORD_ITSELF = '@record';

/** Deepest nesting and most nodes that an expression may have; both are refused while it is written. */
export const MOST_DEPTH = 40;
export const MOST_NODES = 400;

/** Most characters of FEEL text. */
export const MOST_TEXT = 10_000;

/** A field of a record, or of one up its links. */
export type FieldRead = Extract<Expression, { kind: 'field' }>;

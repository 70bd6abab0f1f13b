import type { RelativeDay, Value, ValueType, WireValue } from '../values';

export type CompareOperator = '=' | '!=' | '<' | '<=' | '>' | '>=';
export type PresenceOperator = 'isEmpty' | 'isNotEmpty';
export type AmongOperator = 'isAmong' | 'isNotAmong';
export type MatchOperator = 'contains' | 'startsWith';
export type SelectionOperator = 'isIn' | 'isNotIn';
export type GroupOperator = 'all' | 'any' | 'none';

/**
 * The expression tree as it is written, stored and sent: plain data. A field is read on the record itself (`route` empty)
 * or on a record up its links. A constant takes its kind from what it is compared with.
 */
export type Expression =
  | { readonly kind: 'constant'; readonly value: WireValue }
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
  /** A date relative to the settled day; only compared with dates. */
  | ({ readonly kind: 'day' } & RelativeDay)
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
      readonly kind: 'selection';
      readonly type: ValueType;
      readonly operator: SelectionOperator;
      readonly from: string;
      readonly route: readonly string[];
      readonly name: string;
      /** The selection's own condition, read from the record at hand. */
      readonly of: Typed;
    };

export type TypedField = Extract<Typed, { kind: 'field' }>;

export const YES_NO: ValueType = { kind: 'yesNo' };

/** Deepest nesting and most nodes that an expression may have; both are refused while it is written. */
export const MOST_DEPTH = 12;
export const MOST_NODES = 200;

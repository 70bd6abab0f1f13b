import type { Expression, Typed } from '@/core/expression';
import type { Pace } from '@/core/model';
import type { Limits, Rounding, ValueType } from '@/core/values';
import type { CompiledBase } from '@/core/rules/shared/base';

/** A field from an expression over the record and its routes, as it is written, stored and sent: plain data. */
export interface Formula {
  readonly kind: 'formula';
  /** The type, and the field of it that is kept. */
  readonly type: string;
  readonly target: string;
  readonly value: Expression;
  /** On which records it applies; `null` for all. */
  readonly appliesWhen: Expression | null;
  /** What stands on the others; `null` is empty. */
  readonly otherwise: Expression | null;
  /** Rounds the result before it is fitted to the target's own places; `null` for the target's alone. */
  readonly rounding: Rounding | null;
  readonly limits?: Limits | null;
  readonly pace: Pace;
}

/** A formula that has been checked and typed. */
export interface CompiledFormula extends CompiledBase {
  readonly kind: 'formula';
  readonly definition: Formula;
  readonly value: Typed;
  readonly appliesWhen: Typed | null;
  readonly otherwise: Typed | null;
  /** In a pilot: on which records it keeps the field. Left out for all. */
  readonly claims?: Typed;
  readonly resultType: ValueType;
  readonly recursion: null;
  readonly map: null;
}

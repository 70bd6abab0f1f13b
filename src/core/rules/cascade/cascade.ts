import type { Expression, Typed, TypedField, TypedGather } from '@/core/expression';
import type { Field, LinkRef, Pace, Step } from '@/core/model';
import type { Value, ValueType, WireValue } from '@/core/values';
import type { FieldRead, OrderOf } from '@/core/syntax/expression';
import type { CompiledBase } from '@/core/rules/shared/base';

/** What changed of the record whose values are cascaded. Of a record just made nothing changed, but it may have become something. */
export type ChangeTest =
  | { readonly kind: 'changed' | 'rose' | 'fell'; readonly field: string }
  | { readonly kind: 'became' | 'stoppedBeing'; readonly field: string; readonly value: WireValue };

/** Acts where one of the tests holds on the net change of a run. */
export interface OnChange {
  readonly kind: 'onChange';
  readonly tests: readonly ChangeTest[];
  /** On the record as it stands then; `null` for all. */
  readonly where: Expression | null;
}

/**
 * When values are cascaded: always equal; to a record that is made under it, attached to it or moved to it; or when something changed.
 */
export type Moment = 'inStep' | 'atCreation' | OnChange;

export type AssignedValue =
  /** Worked out on the record whose values are cascaded. */
  | { readonly kind: 'expression'; readonly expression: Expression }
  /** What a field of it held before the change. */
  | { readonly kind: 'before'; readonly field: string }
  /** By an option of it. */
  | {
      readonly kind: 'map';
      readonly field: string;
      readonly rows: readonly { readonly from: WireValue; readonly to: WireValue }[];
      readonly otherwise:
        { readonly kind: 'writes'; readonly value: WireValue } | { readonly kind: 'asItIs' };
    }
  /** Text with values in it: `With {title} until {closes}`. */
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'empty' };

export interface Assignment {
  readonly target: string;
  readonly value: AssignedValue;
  /** Switched off: kept, but of no account. */
  readonly isOff?: boolean;
}

/** Values of a record to its children, to records further on, to its siblings, to the record it hangs under, or to itself. Plain data. */
export interface Cascade {
  readonly kind: 'cascade';
  /** The type of the records whose values are cascaded. */
  readonly type: string;
  /** From there to those that take them; without steps to itself. Up a link and down the same one lie the siblings, without itself. */
  readonly route: readonly Step[];
  /** Down a link of the type to itself: to all that lies beneath, at any depth; each takes from the nearest above it that cascades. */
  readonly isAllTheWay?: boolean;
  /** Only to those that have the same in these fields, which both types have. */
  readonly same?: readonly string[];
  /** Which of them; read on them and up their links. `null` for all. */
  readonly condition: Expression | null;
  readonly moment: Moment;
  /** On change, of those: all, only where the field is empty, or only where it still holds what it would have been given before the change. */
  readonly only?: 'all' | 'empty' | 'oldValue';
  /** Where several cascade to one in the same run: the first by it, the last where it says so; then by their ids. */
  readonly order?: {
    /** `null`: in the order in which they were made. */ readonly field: FieldRead | null;
    readonly isLast: boolean;
  };
  readonly assignments: readonly Assignment[];
  /** Where several rules react into one field: the lower the number, the sooner; the others give way to it. Left out it comes last. */
  readonly precedence?: number;
  readonly pace: Pace;
}

/** Of several that may cascade to one the first by the rule's order does, among those that have something to give. */
export interface FromSeveral {
  /** Its value, as it is found from the record that takes it. */
  readonly leads: TypedGather;
  /** What each gives, read on it; and whether it gives anything (`null`: always). */
  readonly value: Typed;
  readonly given: Typed | null;
  /** Read on the record that takes it; `null` for all. */
  readonly condition: Typed | null;
  readonly same: readonly Field[];
}

/** One assignment of a cascade that is kept in step, checked and typed; the others stand beside it. It claims nothing where it doesn't apply. */
export interface KeptCascade extends CompiledBase {
  readonly kind: 'keptCascade';
  readonly definition: Cascade;
  readonly parts: readonly KeptCascade[];
  /** Typed on the record that takes it, up to the one that cascades it. */
  readonly value: Typed;
  readonly appliesWhen: Typed;
  /** The self link over which it cascades what the record above was given by it: all the way down; `null` where it goes one step. */
  readonly handsDown: LinkRef | null;
  /** Where several may cascade to one; `null` beneath a record. */
  readonly several: FromSeveral | null;
  readonly otherwise: null;
  readonly resultType: ValueType;
  readonly recursion: null;
  readonly map: null;
}

export type CompiledTest =
  | { readonly kind: 'changed'; readonly field: Field }
  | { readonly kind: 'rose' | 'fell'; readonly field: Field }
  | { readonly kind: 'became' | 'stoppedBeing'; readonly field: Field; readonly value: Value };

/** A piece of text with values in it. */
export type TextPart = string | TypedField;

/** What is cascaded; read on the record that cascades it, as it stands then or as it was before the run. */
export type CompiledAssignedValue =
  | { readonly kind: 'worked'; readonly value: Typed; readonly isBefore: boolean }
  | { readonly kind: 'text'; readonly parts: readonly TextPart[] };

/** One assignment of a cascade that acts at creation or on change, checked and typed; the others stand beside it. */
export interface ReactingCascade extends CompiledBase {
  readonly kind: 'reactingCascade';
  readonly definition: Cascade;
  readonly parts: readonly ReactingCascade[];
  /** The type of the records that cascade it. */
  readonly source: string;
  readonly route: readonly Step[];
  /** To all that lies beneath over the route's one link, at any depth. */
  readonly isAllTheWay: boolean;
  readonly same: readonly Field[];
  readonly condition: Typed | null;
  readonly moment:
    | {
        readonly kind: 'atCreation';
        /** From the record that takes it to the one that cascades it; of siblings to what they hang under. */
        readonly up: readonly string[];
        /** Whether its siblings cascade it: the first of them that has something. */
        readonly isBeside: boolean;
      }
    | { readonly kind: 'onChange'; readonly tests: readonly CompiledTest[]; readonly where: Typed | null };
  readonly only: 'all' | 'empty' | 'oldValue';
  readonly order: OrderOf | null;
  readonly value: CompiledAssignedValue;
  /** The type of the records across which it goes, where a text of any part reads them; `null` where none does. */
  readonly via: string | null;
  /** Read on the record that cascades it: where it doesn't hold nothing is; `null` where it always is. */
  readonly given: Typed | null;
  readonly resultType: ValueType;
  readonly recursion: null;
  readonly map: null;
}

/** What is assigned to a field, typed on the record that it comes from. */
export interface CompiledAssigning {
  readonly value: CompiledAssignedValue;
  /** Where it doesn't hold nothing is assigned; `null` where something always is. */
  readonly given: Typed | null;
  readonly type: ValueType;
}

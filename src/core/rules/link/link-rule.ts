import type { Expression, Typed, TypedField } from '@/core/expression';
import type { OpenLink, Pace } from '@/core/model';
import type { ValueType } from '@/core/values';
import type { FieldRead, OrderOf } from '@/core/syntax/expression';
import type { CompiledBase } from '@/core/rules/shared/base';

/** What must be the same: a field of the record that is looked for, and an expression on the one whose link is filled. */
export interface MatchKey {
  readonly field: string;
  readonly value: Expression | null;
}

/** How the record is found that a link should name. */
export type Finding =
  /** The record at the end of links up from it; of a hierarchy the topmost, at any depth. */
  | {
      readonly kind: 'route';
      readonly route: readonly string[];
      /** The self link that is gone up to the top; `null` where the record itself is meant. */
      readonly topmost: string | null;
      /** Where nothing is above it: itself, or none. */
      readonly whenNoneAbove: 'itself' | 'empty';
    }
  /** The records that have the same in some fields. */
  | {
      readonly kind: 'match';
      readonly keys: readonly MatchKey[];
      /** Text is the same whatever its case. */
      readonly ignoresCase: boolean;
      /** Which of them; read on them and up their links. `null` for all. */
      readonly condition: Expression | null;
      /** Of several: the first or last by an order, or a person is asked. */
      readonly several: 'first' | 'ask';
      readonly order: {
        /** `null`: in the order of their making. */ readonly field: FieldRead | null;
        readonly isLast: boolean;
      } | null;
    };

/** Fills a link field. Plain data. */
export interface LinkRule {
  readonly kind: 'link';
  readonly type: string;
  /** The link that is filled. */
  readonly target: string;
  /** On which records it applies; elsewhere it claims nothing. `null` for all. */
  readonly appliesWhen: Expression | null;
  readonly find: Finding;
  /** Always so, and people can't enter it where the rule applies; or only where it is empty, and again when it is cleared. */
  readonly holds: 'always' | 'whereEmpty';
  /** Where none is found the link is left as it is, or emptied. */
  readonly none: 'leave' | 'clear';
  readonly pace: Pace;
  /** Id of the person in charge: that several are found is written to them. */
  readonly tells?: string | null;
}

export type CompiledFinding =
  | {
      readonly kind: 'route';
      /** The link at the end of the way. */
      readonly value: TypedField;
      readonly topmost: { readonly type: string; readonly link: string; readonly isItself: boolean } | null;
    }
  | {
      readonly kind: 'match';
      readonly type: string;
      readonly keys: readonly {
        readonly field: TypedField;
        readonly value: Typed;
        readonly isFolded: boolean;
      }[];
      readonly condition: Typed | null;
      readonly several: 'first' | 'ask';
      readonly order: OrderOf | null;
    };

/** A link rule that has been checked and typed. */
export interface CompiledLinked extends CompiledBase {
  readonly kind: 'linked';
  readonly definition: LinkRule;
  /** Where it applies: by the rule's own condition (`condition`), and for one of an open link only where no other of it is filled. */
  readonly appliesWhen: Typed | null;
  readonly condition: Typed | null;
  /** The open link of which it fills one link; left out of any other. */
  readonly open?: OpenLink;
  readonly find: CompiledFinding;
  readonly holds: LinkRule['holds'];
  readonly none: LinkRule['none'];
  readonly resultType: ValueType;
  readonly recursion: null;
  readonly map: null;
}

/** Whether a person is asked where several are found. */
export const asksWhich = ({ find }: CompiledLinked): boolean =>
  find.kind === 'match' && find.several === 'ask';

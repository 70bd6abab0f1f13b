import type { Expression, Typed } from '@/core/expression';
import type { Field, Pace } from '@/core/model';
import type { Value, WireValue } from '@/core/values';
import type { Assignment, CompiledAssigning } from '@/core/rules/cascade/cascade';
import type { CompiledBase, FieldRef } from '@/core/rules/shared/base';

/** How something is done: at once, as a proposal that a person approves, at once and people are told, or not at all. */
export type ExecutionMode = 'directly' | 'proposal' | 'both' | 'not';

/** One way for all, or by an option of the record for which one is made. */
export type ExecutionModeBy =
  | ExecutionMode
  | {
      readonly field: string;
      readonly rows: readonly { readonly from: WireValue; readonly way: ExecutionMode }[];
      readonly otherwise: ExecutionMode;
    };

/**
 * What becomes of a record that was made, once the one that it was made for leaves the condition or goes into the bin: nothing, a field of it
 * is written, the links between the two are emptied, or it goes into the bin too.
 */
export type Afterwards =
  | 'left'
  | 'unlinked'
  | 'removed'
  | { readonly kind: 'marked'; readonly field: string; readonly value: WireValue };

/** For records of a type, make one of another. Plain data. */
export interface Create {
  readonly kind: 'create';
  /** The type of the records for which one is made. */
  readonly type: string;
  /** Which of them, read on them and up their links: one is made when it comes to hold. `null`: when they are made. */
  readonly condition: Expression | null;
  /**
   * With the save that makes it hold, at set times for all that meet it, or when a person asks (`onRequest`, without a field).
   */
  readonly pace: Pace;
  /** A person may also ask for one, whatever the pace. */
  readonly mayAsk?: boolean;
  /** One for each record, made once and found again, or one each time. */
  readonly each: 'once' | 'everyTime';
  /** The type of the records that are made. */
  readonly makes: string;
  /** The link of what is made that names the one it is made for; `null` for none. */
  readonly back: string | null;
  /** The link of the record that names what was made for it; `null` for none. */
  readonly forward: string | null;
  /** Fields of what is made, from the record that it is made for. */
  readonly assignments: readonly Assignment[];
  /** Fields of the record that it is made for, from what was made: its number, for one. */
  readonly gives?: readonly Assignment[];
  readonly making: ExecutionModeBy;
  /** Whether later changes of what is assigned are cascaded to what was made. */
  readonly following: ExecutionModeBy;
  /** Whether changes of what was made are handed back. */
  readonly returning: ExecutionModeBy;
  readonly afterwards: Afterwards;
  /** Id of the person in charge: what is proposed, or done and told, is written to them. */
  readonly tells?: string | null;
}

/** By an option of a field, or the same for all (`field: null`). */
export interface CompiledExecutionMode {
  readonly field: Field | null;
  readonly rows: readonly { readonly from: Value; readonly way: ExecutionMode }[];
  readonly otherwise: ExecutionMode;
}

export interface CompiledAssigned extends CompiledAssigning {
  readonly target: Field;
  /** The field of the record that it is made for, to which a change is handed back; `null` where it isn't one. */
  readonly returnsTo: Field | null;
}

/** A create rule that has been checked and typed. */
export interface CompiledCreate extends Pick<
  CompiledBase,
  'id' | 'version' | 'name' | 'reads' | 'rates' | 'pace' | 'pilot'
> {
  readonly kind: 'create';
  readonly definition: Create;
  /** Where its paths start: the record for which one is made, and its link to that (`''` for none). */
  readonly writes: FieldRef;
  readonly makes: string;
  readonly where: Typed | null;
  readonly assigned: readonly CompiledAssigned[];
  /** Typed on what was made. */
  readonly given: readonly CompiledAssigned[];
  readonly making: CompiledExecutionMode;
  readonly following: CompiledExecutionMode;
  readonly returning: CompiledExecutionMode;
  readonly marks: { readonly target: Field; readonly value: Value } | null;
}

/** Ways that write at once. */
export const isAtOnce = (way: ExecutionMode): boolean => way === 'directly' || way === 'both';

/** The ways that something may go, whatever the option. */
export const executionModesOf = ({ rows, otherwise }: CompiledExecutionMode): readonly ExecutionMode[] => [
  ...new Set([...rows.map(({ way }) => way), otherwise]),
];

/** Whether a rule that makes records assigns something else than it did in another meaning of it, as on another day. */
export const assignsOther = (rule: CompiledCreate, from: CompiledCreate): boolean =>
  JSON.stringify(rule.assigned) !== JSON.stringify(from.assigned);

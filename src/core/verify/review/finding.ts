import { type ProblemCode } from '@/core/values';
import { type FieldRef, type RuleDefinition } from '@/core/rules';

/** Something of a rule that may be meant, but often isn't; with how it would be put right, where that is plain. */
export interface ReviewFinding {
  readonly code: ProblemCode;
  /** What it is, and why it matters. */
  readonly why: string;
  readonly fix: Rewritten | null;
  /** The field that the data has a say about. */
  readonly about?: FieldRef;
}

/** The rule written otherwise. */
export interface Rewritten {
  readonly label: string;
  readonly definition: RuleDefinition;
}

/** How something is put right: the rule is written otherwise, or another one is paused. */
export type Fix = Rewritten | { readonly label: string; readonly pauses: string };

export const ORDER = ['hour', 'day', 'week', 'month'] as const;

import { type AnyCompiled, type CompiledRule, type FieldRef } from '@/core/rules';
import { type Problem } from '@/core/values';

/** The rules that take part in runs, in an order in which each comes after all that it reads. */
export interface Plan {
  /** Those that write fields of records that are there. */
  readonly rules: readonly CompiledRule[];
  /** The same with those that make records. */
  readonly turns: readonly AnyCompiled[];
  /**
   * Rules that lead to one another in a circle which goes through one that reacts, or one that reacts to what it writes: a run goes round until
   * nothing follows. Of each circle those that keep their fields come first, then those that react; in `rules` they stand side by side.
   */
  readonly circles: readonly ReadonlySet<CompiledRule>[];
  /** The rule that keeps a field on every record, if one does; what a rule only reacts into, or claims on some, is open to people. */
  keeper(ref: FieldRef): CompiledRule | undefined;
  /** The rule that fills a link, if one does: what is required of it is looked at once the rules have run. */
  filler(ref: FieldRef): CompiledRule | undefined;
  /** Whether a rule keeps a field or claims it on some records: it may be in error there. */
  mayFail(ref: FieldRef): boolean;
  /** Whether a rule that writes fields reads a field, or is asked by it to be worked out now. */
  isRead(ref: FieldRef): boolean;
}

/** A finding about one rule (or, for circles and two writers, about each rule that takes part). */
export interface RuleProblem extends Problem {
  readonly rule: string;
}

export interface PlanResult {
  readonly plan: Plan;
  /** When there are any, the rules that they name are left out of the plan. */
  readonly problems: readonly RuleProblem[];
  /** What may stand, but is better known. */
  readonly advice: readonly RuleProblem[];
}

export const keyOf = ({ type, field }: FieldRef): string => `${type}.${field}`;

export type ByNode = ReadonlyMap<string, readonly AnyCompiled[]>;

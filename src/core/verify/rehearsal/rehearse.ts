import {
  type Answer,
  type EditProblem,
  type Need,
  Overlay,
  propagate,
  readEdits,
  type RecordStore,
  type Ripple,
  runInMemory,
  type WireEdit,
} from '@/core/engine';
import type { RunContext } from '@/core/expression';
import type { Model } from '@/core/model';
import { buildPlan, type Plan, type PlanResult, type RuleProblem } from '@/core/plan';
import type { Rule } from '@/core/rules';
import { rippleView, type RippleView } from '@/core/verify/explain/views';

export interface RehearsalInput {
  readonly model: Model;
  readonly live: readonly Rule[];
  /** Rules that take part although they aren't live; one with the id of a live rule stands in for it. */
  readonly drafts: readonly Rule[];
  readonly edits: readonly WireEdit[];
  readonly people: ReadonlySet<string>;
  readonly newId: () => string;
  /** Who makes the edits, and when; must be there where a rule that acts reads either. */
  readonly facts?: RunContext;
  /** The live rules with the drafts among them, where they are planned already. */
  readonly planned?: Pick<PlanResult, 'plan' | 'problems'>;
}

interface Refused {
  readonly kind: 'refused';
  readonly edits: readonly EditProblem[];
}

interface Unsound {
  readonly kind: 'unsound';
  readonly rules: readonly RuleProblem[];
}

export type Rehearsed =
  | Refused
  | Unsound
  | { readonly kind: 'done'; readonly plan: Plan; readonly filled: Ripple | null; readonly ripple: Ripple };

/** What would happen, in words. */
export type Rehearsal =
  | Refused
  | Unsound
  | {
      readonly kind: 'done';
      /** What taking the drafts live would change before any edit; `null` without drafts. */
      readonly filled: RippleView | null;
      readonly ripple: RippleView;
    };

/** The live rules with drafts among them: each joins them, or stands in for the one with its id. */
export function withDrafts(live: readonly Rule[], drafts: readonly Rule[]): Rule[] {
  const ids = new Set(drafts.map((draft) => draft.id));
  return [...live.filter((rule) => !ids.has(rule.id)), ...drafts];
}

/** The plan of the live rules with drafts among them. */
export const planWithDrafts = (model: Model, live: readonly Rule[], drafts: readonly Rule[]): PlanResult =>
  buildPlan(model, withDrafts(live, drafts));

/**
 * Runs staged edits through the rules and tells what would happen, taking no locks. The driver must write into an overlay or a transaction
 * that is thrown away. Every pace comes round at once: what is told is what would follow in the end. Drafts fill their targets first, so that the ripple shows what follows from the edits alone.
 */
export function* rehearsing(input: RehearsalInput): Generator<Need, Rehearsed, Answer> {
  const { model, drafts, newId } = input;
  const made = { newId, ...(input.facts ? { facts: input.facts } : {}) };
  const { plan, problems } = input.planned ?? planWithDrafts(model, input.live, drafts);
  if (problems.length > 0) return { kind: 'unsound', rules: problems };
  const read = readEdits({ model, plan, edits: input.edits, people: input.people, newId });
  if (!read.ok) return { kind: 'refused', edits: read.problems };
  let filled: Ripple | null = null;
  if (drafts.length > 0) {
    const outcome = yield* propagate({
      ...{ model, plan, edits: [], isAlone: true, isEveryPace: true },
      ...made,
      fill: drafts.map((draft) => draft.id),
    });
    if (outcome.kind === 'refused') return { kind: 'refused', edits: fillProblems(outcome.problems) };
    filled = outcome.ripple;
  }
  const outcome = yield* propagate({
    ...{ model, plan, edits: read.edits, isAlone: true, isEveryPace: true },
    ...made,
  });
  if (outcome.kind === 'refused') return { kind: 'refused', edits: outcome.problems };
  return { kind: 'done', plan, filled, ripple: outcome.ripple };
}

/** Why what rules keep couldn't be worked out before the first edit: nothing is known of what would follow from any. */
export const fillProblems = (problems: readonly EditProblem[]): readonly EditProblem[] =>
  problems.map((problem) => ({
    ...problem,
    message: `Before any edit, what the rules keep can’t be worked out on these records: ${problem.message}`,
  }));

/** `store` holds the records as they stand at the end of the rehearsal, for their titles. */
export function rehearsalView(
  model: Model,
  rehearsed: Rehearsed,
  store: RecordStore,
  names: Readonly<Record<string, string>>,
): Rehearsal {
  if (rehearsed.kind !== 'done') return rehearsed;
  const view = (ripple: Ripple) => rippleView({ model, plan: rehearsed.plan, store, names }, ripple);
  return { kind: 'done', filled: rehearsed.filled && view(rehearsed.filled), ripple: view(rehearsed.ripple) };
}

/** A rehearsal on records in memory, which stay as they are; `after` holds them as they would stand. */
export function rehearse(
  input: RehearsalInput & { readonly store: RecordStore; readonly names: Readonly<Record<string, string>> },
): { readonly rehearsal: Rehearsal; readonly after: RecordStore } {
  const after = new Overlay(input.model, input.store);
  const rehearsed = runInMemory(input.model, after, rehearsing(input));
  return { rehearsal: rehearsalView(input.model, rehearsed, after, input.names), after };
}

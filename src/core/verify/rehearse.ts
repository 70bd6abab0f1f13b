import { type EditProblem, Overlay, propagate, readEdits, type RecordStore, type Ripple, runInMemory, type WireEdit } from '../engine';
import type { Model } from '../model';
import { buildPlan, type Plan, type RuleProblem } from '../plan';
import type { Rule } from '../rules';
import { rippleView, type RippleView } from './views';

export interface RehearsalInput {
  readonly model: Model;
  /** What is rehearsed on. It stays as it is. */
  readonly store: RecordStore;
  readonly live: readonly Rule[];
  /** Rules that take part although they aren't live; one with the id of a live rule stands in for it. */
  readonly drafts: readonly Rule[];
  readonly edits: readonly WireEdit[];
  readonly people: ReadonlySet<string>;
  readonly names: Readonly<Record<string, string>>;
  readonly newId: () => string;
}

export interface RehearsalDone {
  readonly kind: 'done';
  /** What taking the drafts live would change before any edit; `null` without drafts. */
  readonly filled: RippleView | null;
  readonly ripple: RippleView;
  /** The records as they would stand, over what was rehearsed on. */
  readonly after: RecordStore;
}

export type Rehearsal =
  | RehearsalDone
  | { readonly kind: 'refused'; readonly edits: readonly EditProblem[] }
  | { readonly kind: 'unsound'; readonly rules: readonly RuleProblem[] };

/** The plan with drafts in it: each joins the live rules, or stands in for the one with its id. */
export function planWithDrafts(model: Model, live: readonly Rule[], drafts: readonly Rule[]): { plan: Plan; problems: readonly RuleProblem[] } {
  const ids = new Set(drafts.map((draft) => draft.id));
  return buildPlan(model, [...live.filter((rule) => !ids.has(rule.id)), ...drafts]);
}

/**
 * Runs staged edits through the rules and tells what would happen. Saves nothing: it writes into an overlay that is thrown
 * away. Drafts fill their targets first, so that the ripple shows what follows from the edits alone.
 */
export function rehearse(input: RehearsalInput): Rehearsal {
  const { model, names, drafts } = input;
  const { plan, problems } = planWithDrafts(model, input.live, drafts);
  if (problems.length > 0) return { kind: 'unsound', rules: problems };
  const read = readEdits({ model, plan, edits: input.edits, people: input.people, newId: input.newId });
  if (!read.ok) return { kind: 'refused', edits: read.problems };

  const before = new Overlay(model, input.store);
  const filled = drafts.length > 0 ? fill(model, plan, before, drafts) : null;
  const after = new Overlay(model, before);
  const outcome = runInMemory(model, after, propagate({ model, plan, edits: read.edits }));
  if (outcome.kind === 'refused') return { kind: 'refused', edits: outcome.problems };
  const view = (ripple: Ripple) => rippleView({ model, plan, store: after, names }, ripple);
  return { kind: 'done', filled: filled && view(filled), ripple: view(outcome.ripple), after };
}

function fill(model: Model, plan: Plan, store: RecordStore, drafts: readonly Rule[]): Ripple {
  const outcome = runInMemory(model, store, propagate({ model, plan, edits: [], fill: drafts.map((draft) => draft.id) }));
  if (outcome.kind === 'refused') throw new RangeError('A run without edits has nothing to refuse');
  return outcome.ripple;
}

import type { PropagateInput } from '../engine';
import type { Model } from '../model';
import { meaningOther, type Plan } from '../plan';

/** Rules as of a settled day. */
interface OnDay {
  readonly model: Model;
  readonly plan: Plan;
}

interface Turning {
  readonly newId: () => string;
  /** When the day turns: an instant. */
  readonly moment: string;
}

/**
 * The run in which the settled day turns into another: what rules with dates keep is worked out for all their targets, and what acts on a change
 * acts on those that follow. Nobody's change it is.
 */
export const turningTo = (to: OnDay, from: OnDay, { newId, moment }: Turning): PropagateInput => ({
  ...{ model: to.model, plan: to.plan, edits: [], isAlone: true, isEveryPace: true, newId },
  fill: [...new Set(meaningOther(to.plan, from.plan).map(({ id }) => id))],
  facts: { person: null, moment },
});

import {
  type Answer,
  type Need,
  propagate,
  type PropagateInput,
  readerOf,
  type RecordStore,
  type RunOutcome,
  type TurnedMaker,
} from '@/core/engine';
import { evaluatorOf, type Typed } from '@/core/expression';
import type { Model } from '@/core/model';
import { makersOther, changedRules, type Plan } from '@/core/plan';
import { assignsOther, isReactingCascade, isReacting } from '@/core/rules';

/** Rules as of a settled day. */
export interface OnDay {
  readonly model: Model;
  readonly plan: Plan;
}

interface Turning {
  /** The records before the day turns. */
  readonly store: RecordStore;
  readonly newId: () => string;
  /** When the day turns: an instant. */
  readonly moment: string;
}

/**
 * The settled day turns into another, over a store into which what follows is written: what rules with dates keep is worked out for all their
 * targets, what comes to meet a condition with dates has its records made, and what acts on a change acts on those that follow. Nobody's change
 * it is.
 */
export function* advanceDay(
  to: OnDay,
  from: OnDay,
  { store, newId, moment }: Turning,
): Generator<Need, RunOutcome, Answer> {
  const dated = changedRules(to.plan, from.plan).filter((rule) => !isReactingCascade(rule));
  const fill = [...new Set(dated.map(({ id }) => id))];
  const common = { edits: [], isAlone: true, isEveryPace: true, newId, facts: { person: null, moment } };
  // What rules that react have come to so far, which nobody may have noted yet, is held against what they come to then.
  const reacting = [...new Set(dated.filter(isReacting).map(({ id }) => id))];
  if (reacting.length > 0) {
    const noted = yield* propagate({ ...common, model: from.model, plan: from.plan, fill: reacting });
    if (noted.kind === 'refused') return noted;
  }
  const input: PropagateInput = {
    ...{ ...common, model: to.model, plan: to.plan, fill, actsOnFill: true },
    turned: turnedMakers(to, from, store),
  };
  return yield* propagate(input);
}

/** By rule that makes records: those for which it means something else on the other day. */
function turnedMakers(to: OnDay, from: OnDay, store: RecordStore): ReadonlyMap<string, TurnedMaker> {
  const reader = readerOf(from.model, store);
  return new Map(
    makersOther(to.plan, from.plan).map(({ rule, from: was }) => {
      const holds = (where: Typed | null, row: Parameters<typeof reader.given>[0]) =>
        where === null || evaluatorOf(where)(row, reader.given, reader.beneath) === true;
      const isOther = assignsOther(rule, was);
      const ids = [...store.rows(rule.writes.type)].flatMap((row) => {
        if (row.deleted) return [];
        const meets = holds(rule.where, row);
        return meets !== holds(was.where, row) || (isOther && meets) ? [row.id] : [];
      });
      return [rule.id, { from: was, ids }];
    }),
  );
}

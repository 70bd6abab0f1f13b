import { type EditProblem, Overlay, type RecordStore, runInMemory, type WireEdit } from '@/core/engine';
import type { RunContext } from '@/core/expression';
import { type Model, readModel } from '@/core/model';
import { planWithDrafts, rehearse, type Rehearsal, type RehearsalInput } from './rehearse';
import { type RunSetting, settledDayOf, runScheduleOf } from './run-schedule';
import { advanceDay } from './advance-day';
import { rippleView, type RippleView } from '@/core/verify/explain/views';

export interface SavesInput extends Pick<RehearsalInput, 'live' | 'drafts' | 'people' | 'newId'> {
  /** Read as of the day on which the first save is made, unless it says otherwise. */
  readonly model: Model;
  readonly store: RecordStore;
  readonly names: Readonly<Record<string, string>>;
  /** Save by save. */
  readonly saves: readonly (readonly WireEdit[])[];
  readonly settings?: readonly RunSetting[];
}

/** A save of a rehearsal, and what its day brought before it. */
export type SaveRehearsed = Rehearsal & {
  /** What followed from the day alone; `null` where the day stayed. */
  readonly turned: RippleView | null;
};

export interface SavesRehearsed {
  /** At least one; none after one that is refused. */
  readonly rehearsals: readonly SaveRehearsed[];
  /** As it stands at the end: the model as of the last day, and the records. */
  readonly model: Model;
  readonly last: RecordStore;
  /** Of the last save that was made. */
  readonly facts: RunContext;
}

/** Rehearses several saves in memory, one after the other, each on its day and by whom it says; the records stay as they are. */
export function rehearseSaves({ saves, settings, ...input }: SavesInput): SavesRehearsed {
  const points = runScheduleOf(Math.max(1, saves.length), settledDayOf(input.model), settings);
  const rehearsals: SaveRehearsed[] = [];
  let model: Model = input.model;
  let last = input.store;
  let made = points[0]!.facts;
  for (const [number, { day, facts }] of points.entries()) {
    let turned: RippleView | null = null;
    let filled: RippleView | null = null;
    if (day !== settledDayOf(model)) {
      // Drafts are there before the day turns.
      if (number === 0 && input.drafts.length > 0) {
        const { rehearsal, after } = rehearse({ ...input, model, store: last, edits: [], facts });
        if (rehearsal.kind !== 'done') {
          rehearsals.push({ ...rehearsal, turned });
          break;
        }
        [filled, last] = [rehearsal.filled, after];
      }
      const turn = advanceDayIn({ ...input, model, store: last }, day, facts.moment);
      if (turn.problems.length > 0) {
        rehearsals.push({ kind: 'refused', edits: turn.problems, turned });
        break;
      }
      [model, last, turned] = [turn.model, turn.after, turn.ripple];
    }
    const edits = saves[number] ?? [];
    const { rehearsal, after } = rehearse({ ...input, model, store: last, edits, facts });
    rehearsals.push({
      ...rehearsal,
      ...(filled && rehearsal.kind === 'done' ? { filled } : {}),
      turned,
    });
    if (rehearsal.kind !== 'done') break;
    [last, made] = [after, facts];
  }
  return { rehearsals, model, last, facts: made };
}

interface Turned {
  readonly model: Model;
  readonly after: RecordStore;
  /** `null` where the rules don't fit together, or the day is refused. */
  readonly ripple: RippleView | null;
  readonly problems: readonly EditProblem[];
}

/** The records as of another day: what rules with dates keep is worked out for it, and what follows from that. */
export function advanceDayIn(
  input: Omit<SavesInput, 'saves' | 'settings' | 'people'>,
  day: string,
  moment: string,
): Turned {
  const model = readModel(input.model, day);
  const after = new Overlay(model, input.store);
  const planOn = (on: Model) => planWithDrafts(on, input.live, input.drafts);
  const [from, to] = [planOn(input.model), planOn(model)];
  if (to.problems.length > 0 || from.problems.length > 0) return { model, after, ripple: null, problems: [] };
  const outcome = runInMemory(
    model,
    after,
    advanceDay(
      { model, plan: to.plan },
      { model: input.model, plan: from.plan },
      { store: input.store, newId: input.newId, moment },
    ),
  );
  if (outcome.kind === 'refused')
    return { model, after: input.store, ripple: null, problems: outcome.problems };
  return {
    ...{ model, after, problems: [] },
    ripple: rippleView({ model, plan: to.plan, store: after, names: input.names }, outcome.ripple),
  };
}

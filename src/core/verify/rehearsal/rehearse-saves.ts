import { itemAt, firstIn } from '@/core/values';
import { type EditProblem, Overlay, type RecordStore, runInMemory, type WireEdit } from '@/core/engine';
import type { RunContext } from '@/core/expression';
import { type Model } from '@/core/model';
import type { Plan, PlanResult } from '@/core/plan';
import { numberedIds } from '@/core/verify/family/numbered-ids';
import { rehearse, type Rehearsal, type RehearsalInput, withDrafts } from './rehearse';
import { runScheduleOf, type RunSetting, settledDayOf, type Standpoint } from './run-schedule';
import { advanceDay } from './advance-day';
import { PlannedRules } from './planned-rules';
import { leftAsIs } from '@/core/verify/explain/left-as-is';
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

/** A save that was rehearsed: what it was, and how everything stood after it. */
interface KeptSave {
  readonly asked: string;
  readonly rehearsal: SaveRehearsed;
  readonly model: Model;
  readonly store: RecordStore;
  readonly facts: RunContext;
  /** How many ids were given until then. */
  readonly ids: number;
}

/**
 * Rehearses saves in memory, one after the other, each on its day and by whom it says; the records stay as they are. Asked again, only what
 * comes from the first save on that is another than before is worked out again: plans, and what earlier saves came to, are kept.
 */
export class SaveSession {
  readonly #rules: PlannedRules;
  #done: readonly KeptSave[] = [];

  constructor(private readonly input: Omit<SavesInput, 'saves' | 'settings' | 'newId'>) {
    this.#rules = new PlannedRules(withDrafts(input.live, input.drafts));
  }

  /** The plan as of the model's day. */
  plan(model: Model): Plan {
    return this.#rules.on(model).plan;
  }

  rehearse({ saves, settings }: Pick<SavesInput, 'saves' | 'settings'>): SavesRehearsed {
    const points = runScheduleOf(Math.max(1, saves.length), settledDayOf(this.input.model), settings);
    const asked = points.map((point, number) => JSON.stringify([point, saves[number] ?? []]));
    const differs = asked.findIndex((one, number) => this.#done[number]?.asked !== one);
    const done = this.#done.slice(0, differs === -1 ? asked.length : differs);
    for (const [number, point] of points.entries()) {
      const before = done.at(-1);
      if (number < done.length) continue;
      if (before && before.rehearsal.kind !== 'done') break;
      done.push({ asked: itemAt(asked, number), ...this.save(number, saves[number] ?? [], point, before) });
    }
    this.#done = done;
    // Of one that is refused the day may have turned all the same.
    const { model, store: last } = done.at(-1) ?? this.input;
    const made = done.findLast(({ rehearsal }) => rehearsal.kind === 'done');
    return {
      ...{ rehearsals: done.map(({ rehearsal }) => rehearsal), model, last },
      facts: (made ?? firstIn(points)).facts,
    };
  }

  private save(
    number: number,
    edits: readonly WireEdit[],
    { day, facts }: Standpoint,
    before: KeptSave | undefined,
  ): Omit<KeptSave, 'asked'> {
    let { model, store } = before ?? this.input;
    let ids = before?.ids ?? 0;
    const next = numberedIds(undefined, ids);
    const newId = () => {
      ids += 1;
      return next();
    };
    const input = { ...this.input, newId };
    const refused = (rehearsal: Rehearsal, turned: RippleView | null) => ({
      ...{ rehearsal: { ...rehearsal, turned }, model, store, facts, ids },
    });
    let turned: RippleView | null = null;
    let filled: RippleView | null = null;
    if (day !== settledDayOf(model)) {
      const planned = this.#rules.on(model);
      // Drafts are there before the day turns.
      if (number === 0 && input.drafts.length > 0) {
        const fill = rehearse({ ...input, planned, model, store, edits: [], facts });
        if (fill.rehearsal.kind !== 'done') return refused(fill.rehearsal, turned);
        [filled, store] = [fill.rehearsal.filled, fill.after];
      }
      const to = this.#rules.onDay(this.input.model, day);
      const turn = turnDay({ ...input, store }, { model, ...planned }, to, facts.moment);
      if (turn.problems.length > 0) return refused({ kind: 'refused', edits: turn.problems }, turned);
      [model, store, turned] = [turn.model, turn.after, turn.ripple];
    }
    const planned = this.#rules.on(model);
    const { rehearsal, after } = rehearse({ ...input, planned, model, store, edits, facts });
    if (rehearsal.kind !== 'done') return refused(rehearsal, turned);
    const left = leftAsIs(
      { ...planned, model, names: input.names, store: after, before: store, facts },
      rehearsal.ripple,
    );
    return {
      rehearsal: {
        ...rehearsal,
        ...(filled ? { filled } : {}),
        ripple: { ...rehearsal.ripple, left },
        turned,
      },
      ...{ model, store: after, facts, ids },
    };
  }
}

interface Turned {
  readonly model: Model;
  readonly after: RecordStore;
  /** `null` where the rules don't fit together, or the day is refused. */
  readonly ripple: RippleView | null;
  readonly problems: readonly EditProblem[];
}

interface PlannedOn extends Pick<PlanResult, 'plan' | 'problems'> {
  readonly model: Model;
}

function turnDay(
  input: Pick<SavesInput, 'store' | 'names' | 'newId'>,
  from: PlannedOn,
  to: PlannedOn,
  moment: string,
): Turned {
  const { model, plan } = to;
  const after = new Overlay(model, input.store);
  if (to.problems.length > 0 || from.problems.length > 0) return { model, after, ripple: null, problems: [] };
  const outcome = runInMemory(
    model,
    after,
    advanceDay({ model, plan }, from, { store: input.store, newId: input.newId, moment }),
  );
  if (outcome.kind === 'refused')
    return { model, after: input.store, ripple: null, problems: outcome.problems };
  return {
    ...{ model, after, problems: [] },
    ripple: rippleView({ model, plan, store: after, names: input.names }, outcome.ripple),
  };
}

/** The records as of another day: what rules with dates keep is worked out for it, and what follows from that. */
export function advanceDayIn(
  input: Omit<SavesInput, 'saves' | 'settings' | 'people'>,
  day: string,
  moment: string,
): Turned {
  const rules = new PlannedRules(withDrafts(input.live, input.drafts));
  const from = { model: input.model, ...rules.on(input.model) };
  return turnDay(input, from, rules.onDay(input.model, day), moment);
}

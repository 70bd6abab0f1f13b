import { firstIn, itemAt } from '@/core/values';
import {
  type Answer,
  type EditProblem,
  type Need,
  Overlay,
  propagate,
  type PropagateInput,
  type Proposed,
  readEdits,
  type RecordStore,
  runInMemory,
  type WireEdit,
} from '@/core/engine';
import type { Model } from '@/core/model';
import type { Plan } from '@/core/plan';
import { type FamilyData, familyStore, recordToWire } from '@/core/verify/family/family';
import { numberedIds } from '@/core/verify/family/numbered-ids';
import { fillProblems } from './rehearse';
import { type RunSetting, settledDayOf, runScheduleOf } from './run-schedule';
import { advanceDay } from './advance-day';

/** The first id of what rules make in a proof or a case: such records have the same ids each time. */
const MADE = '00000000-0000-7000-9000-000000000000';

/** What an event script forgets: it follows no edit of that sort. */
export type Forgets = 'deletions' | 'moves' | 'clearing';

/** Rules at work on records in memory, as of the model's settled day. */
export interface RuleSet {
  readonly model: Model;
  readonly plan: Plan;
  /** A rule that follows no edits of a sort, as the plan without it would have them. */
  readonly forgetting?: { readonly what: Forgets; readonly without: Plan };
  /** The same as of another day. */
  readonly onDay?: (day: string) => RuleSet;
}

/** How records stand at the beginning and at the end, and which run was refused; what comes after that isn't run. */
export interface ProofRun {
  readonly base: RecordStore;
  readonly store: RecordStore;
  readonly refused: ReadonlyMap<number, readonly EditProblem[]>;
  /** Why what the rules keep couldn't be worked out before the first run: then none was made. Empty where it was. */
  readonly unfilled: readonly EditProblem[];
  /** What is proposed and waits for a person, by the rule and the record for which. */
  readonly proposed: ReadonlyMap<string, Proposed>;
}

export const proposedKey = ({ rule, source }: { readonly rule: string; readonly source: string }): string =>
  `${rule} ${source}`;

interface Staged {
  readonly records: RecordStore;
  readonly runs: readonly (readonly WireEdit[])[];
  /** Ids of people that the edits may name. */
  readonly people: ReadonlySet<string>;
  /** On which days the runs are made, and by whom; on the settled day and by nobody where it says nothing. */
  readonly settings?: readonly RunSetting[];
}

/**
 * Runs edits through rules, all in memory, run by run, each on its day. Kept values are first worked out by these rules, so that the records
 * begin as they would stand with them.
 */
export function runThrough(atWork: RuleSet, { records, runs, people, settings }: Staged): ProofRun {
  const base = new Overlay(atWork.model, records);
  const newId = numberedIds(MADE);
  const common = { isAlone: true, isEveryPace: true, newId };
  const proposed = new Map<string, Proposed>();
  const begin = settledDayOf(atWork.model);
  const points = runScheduleOf(runs.length, begin, settings);
  const first: PropagateInput = {
    ...{ ...common, model: atWork.model, plan: atWork.plan, edits: [] },
    ...{ fill: atWork.plan.rules.map(({ id }) => id), facts: firstIn(runScheduleOf(1, begin)).facts },
  };
  const fill = runProposing(atWork.model, base, proposed, propagate(first));
  const unfilled = fill.kind === 'refused' ? fillProblems(fill.problems) : [];
  if (unfilled.length > 0)
    return { base: records, store: records, refused: new Map(), unfilled, proposed: new Map() };
  let store: RecordStore = base;
  let at = atWork;
  const refused = new Map<number, readonly EditProblem[]>();
  for (const [number, run] of runs.entries()) {
    const { day, facts } = itemAt(points, number);
    if (day !== settledDayOf(at.model) && at.onDay) {
      const to = at.onDay(day);
      const turned = new Overlay(to.model, store);
      const turn = advanceDay(to, at, { store, newId, moment: facts.moment });
      const outcome = runProposing(to.model, turned, proposed, turn);
      if (outcome.kind === 'refused') {
        refused.set(number, outcome.problems);
        return { base, store, refused, unfilled, proposed };
      }
      [at, store] = [to, turned];
    }
    const { model, plan, forgetting } = at;
    const [forgotten, followed] = forgetting ? parted(model, run, forgetting.what) : [[], run];
    for (const [with_, wire] of [
      [forgetting?.without ?? plan, forgotten],
      [plan, followed],
    ] as const) {
      if (wire.length === 0) continue;
      const read = readEdits({ model, plan, edits: wire, people, newId });
      const after: Overlay = new Overlay(model, store);
      const outcome = read.ok
        ? runProposing(
            model,
            after,
            proposed,
            propagate({ ...common, model, plan: with_, edits: read.edits, facts }),
          )
        : { kind: 'refused' as const, problems: read.problems };
      if (outcome.kind === 'refused') {
        refused.set(number, outcome.problems);
        return { base, store, refused, unfilled, proposed };
      }
      store = after;
    }
  }
  return { base, store, refused, unfilled, proposed };
}

/**
 * A family in which what rules keep is worked out by them: as it stands before a proof's first edit. Throws an Error, in words for people,
 * where it can't be.
 */
export function workedOut(model: Model, plan: Plan, family: FamilyData): FamilyData {
  const none = { records: familyStore(model, family), runs: [], people: new Set<string>() };
  const { base, unfilled } = runThrough({ model, plan }, none);
  if (unfilled.length > 0) throw new Error(unfilled.map(({ message }) => message).join(' '));
  const records = family.records.map((record) => {
    const row = base.row(record.type, record.id);
    return row ? recordToWire(model, row) : record;
  });
  return { ...family, records };
}

/** Runs in memory, and keeps what is proposed on the way. */
function runProposing<T>(
  model: Model,
  store: RecordStore,
  proposed: Map<string, Proposed>,
  run: Generator<Need, T, Answer>,
): T {
  function* listening(): Generator<Need, T, Answer> {
    let step = run.next();
    while (!step.done) {
      const need = step.value;
      if (need.kind === 'propose') {
        for (const one of need.withdrawn) proposed.delete(proposedKey(one));
        for (const one of need.proposals)
          if (!one.isDone) proposed.set(proposedKey({ rule: one.rule, source: one.source.id }), one);
      }
      step = run.next(yield need);
    }
    return step.value;
  }
  return runInMemory(model, store, listening());
}

/** The edits of a run that are forgotten, and those that are followed; an edit that is both is parted by its fields. */
function parted(
  model: Model,
  run: readonly WireEdit[],
  forgets: Forgets,
): readonly [readonly WireEdit[], readonly WireEdit[]] {
  const forgotten: WireEdit[] = [];
  const followed: WireEdit[] = [];
  for (const edit of run) {
    if (edit.kind !== 'edit') {
      (edit.kind === 'delete' && forgets === 'deletions' ? forgotten : followed).push(edit);
      continue;
    }
    const isForgotten = ([key, value]: [string, unknown]) => {
      const isLink = model.field(edit.type, key)?.type.kind === 'link';
      return forgets === 'moves' ? isLink && value !== null : forgets === 'clearing' && value === null;
    };
    const values = Object.entries(edit.values ?? {});
    for (const [into, of] of [
      [forgotten, values.filter(isForgotten)],
      [followed, values.filter((one) => !isForgotten(one))],
    ] as const)
      if (of.length > 0) into.push({ ...edit, values: Object.fromEntries(of) });
  }
  return [forgotten, followed];
}

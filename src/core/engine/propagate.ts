import { firstIn, itemAt, writeCount } from '@/core/values';
import type { RunContext } from '@/core/expression';
import type { Model } from '@/core/model';
import { type Plan, touchedTypes } from '@/core/plan';
import { type CompiledCreate, hasRivals } from '@/core/rules';
import type { Touched } from './driver/record';
import { applyEdits } from './edits/apply-edits';
import { type Entry, type EditProblem, type Edit } from './edits/types';
import { checkLinks, readAbove } from './edits/check-links';
import { checkUnique } from './edits/check-unique';
import { assignSerials } from './edits/assign-serials';
import { checkOpenLinks, linksLeft } from './edits/open-links';
import { claimsOf } from './locks/lock-claims';
import { type Bounds, BOUNDS } from './reach/bounds';
import { checkMadeByPeople, claimsByPeople, createByPerson } from './edits/create-by-person';
import { inLockOrder } from './reach/lock-order';
import { ask, type Answer, type Answers, type Claim, type Need } from './driver/need';
import { Deferral } from './reach/deferral';
import { reachedPlaces } from './reach/reached-places';
import { recordKey } from './driver/record';
import { WritePrecedence } from './edits/write-precedence';
import { isCircle, isStage, quietStepsOf, type ScheduleStep, scheduleOf } from './run/schedule';
import type { Ripple } from './driver/ripple';
import { FieldRules } from './run/field-rules';
import { CreateRules } from './run/create-rules';
import type { TurnedMaker } from '@/core/engine/create/making';
import { type Leaving, type RunGiven, RunState } from './run/run-state';
import { CONTINUE_IN_BULK, BulkWrites } from './run/bulk-writes';

export interface PropagateInput {
  readonly model: Model;
  readonly plan: Plan;
  /** Each names another record; see `readEdits`. */
  readonly edits: readonly Edit[];
  /** Rules that are worked out for every record of their target's type, whatever was edited: drafts that are tried. */
  readonly fill?: readonly string[];
  /** Rules that react act on what they are filled with where that is another result than before: the settled day turned. */
  readonly actsOnFill?: boolean;
  /** By rule that makes records and means something else since the day turned: what it meant, and the records for which that may matter. */
  readonly turned?: ReadonlyMap<string, TurnedMaker>;
  /** By rule of a slower pace: targets for which it has come round. Others that the run reaches are noted for later. */
  readonly due?: ReadonlyMap<string, readonly string[]>;
  /** Every pace comes round at once, as rehearsals show it: what would follow in the end. */
  readonly isEveryPace?: boolean;
  /** Claims that an earlier try of the same run learnt that it needs. */
  readonly learnt?: readonly Claim[];
  /** By rule that makes records: those for which it is asked now, where they meet its condition; of one for each where none was made. */
  readonly asked?: ReadonlyMap<string, readonly string[]>;
  /** Gives the ids of records that rules make; must be there where a rule may. */
  readonly newId?: () => string;
  /** Who makes the run's change, and when; must be there where a rule that acts in it reads either. */
  readonly facts?: RunContext;
  /**
   * Where a rule would have to cascade from so many records that they were written as a set, or make records for them, the run ends
   * before it (`rest`), rather than be refused: what follows is worked out as after an import.
   */
  readonly stopsForBulk?: boolean;
  /** How many go one by one before that; left out for what saves go by. */
  readonly bounds?: Bounds;
  /** Nobody else writes meanwhile (a rehearsal, a store in memory): no locks are asked for. */
  readonly isAlone?: boolean;
}

export type RunOutcome =
  | { readonly kind: 'done'; readonly ripple: Ripple; readonly rest?: Continuation }
  | { readonly kind: 'refused'; readonly problems: readonly EditProblem[] };

/** What a run left to be worked out: from which of its turns on, with what stands against the rules in them. */
export interface Continuation {
  readonly from: number;
  readonly writePrecedence: WritePrecedence;
  /** Where it stopped within a circle: on which records each of its rules has acted. */
  readonly acted: ReadonlyMap<string, ReadonlySet<string>>;
}

/** Most records that one run may touch before it is refused, with nothing saved. */
export const MOST_TOUCHED = 100_000;

/**
 * The engine: one run. It says what it needs of sets of records and is told; it does no I/O and has no clock. The same
 * generator serves the browser's worker, rehearsals and real saves. The result doesn't depend on the order of the edits
 * or of the rules: rules are worked out in the plan's order, each once for each target, after all that it reads is final.
 */
export function* propagate(input: PropagateInput): Generator<Need, RunOutcome, Answer> {
  const paces = new Deferral(input.due ?? new Map(), input.isEveryPace === true);
  const { entries, problems } = yield* claimEverything(input, paces);
  if (problems.length > 0) return { kind: 'refused', problems: inEditOrder(problems) };
  const fill = input.fill ?? [];
  const isSuppressed = (rule: string) => input.actsOnFill !== true && fill.includes(rule);
  const { model, facts = null } = input;
  const run = new Run({
    ...{ model, paces, facts },
    writePrecedence: new WritePrecedence(input.edits, isSuppressed),
    ...(input.stopsForBulk ? { leaving: leavingOf(input) } : {}),
  });
  yield* run.state.edit(yield* assignSerials(input.model, entries));
  const making = {
    plan: input.plan,
    asked: input.asked ?? NOBODY,
    turned: input.turned ?? NOWHERE,
    newId: input.newId ?? withoutIds,
  };
  yield* run.makers.linkMade(createByPerson(input.plan, input.edits));
  let rest: Continuation | null = null;
  const turns = scheduleOf(input.plan);
  const isOfNoAccount = ofNoAccount(run.state, turns, fill);
  for (let from = 0; from < turns.length; from += 1) {
    if (isOfNoAccount(from)) continue;
    const turn = itemAt(turns, from);
    const problem = isStage(turn)
      ? yield* run.fields.workOut(turn, fill)
      : isCircle(turn)
        ? yield* run.fields.settle(turn, fill)
        : yield* run.makers.make(turn, making);
    const isTooLarge = run.state.size > MOST_TOUCHED;
    const isLeft = problem?.code === CONTINUE_IN_BULK || (!problem && isTooLarge && from + 1 < turns.length);
    if (isLeft && input.stopsForBulk) {
      const { writePrecedence } = run.state;
      rest = { from: problem ? from : from + 1, writePrecedence, acted: run.fields.acted };
      break;
    }
    if (problem) return { kind: 'refused', problems: [problem] };
    if (isTooLarge && !input.isAlone && isStage(turn))
      yield* ask<'alone'>({
        kind: 'alone',
        rule: firstIn(turn),
        sources: [],
        records: run.state.size,
      });
    if (isTooLarge && !input.stopsForBulk) return { kind: 'refused', problems: [tooLarge(run.state.size)] };
  }
  // What goes on as sets is looked at in their end.
  const left = rest ? [] : linksLeft(input, run.state.touched.values(), input.edits);
  if (left.length > 0) return { kind: 'refused', problems: inEditOrder(left) };
  yield* run.state.propose();
  const later = paces.later();
  if (later.length > 0) yield* ask<'defer'>({ kind: 'defer', later });
  return { kind: 'done', ripple: run.state.ripple(later), ...(rest ? { rest } : {}) };
}

const leavingOf = ({ plan, bounds = BOUNDS }: PropagateInput): Leaving => ({
  ...bounds,
  hasRivals: (rule) => hasRivals(plan.rules, rule),
});

/**
 * Most rules have nothing to do with what a run touches; where it writes sets, or fills, each is asked. So are rules that make records, and those
 * in a circle.
 */
function ofNoAccount(
  { touched, many, paces }: RunState,
  turns: readonly ScheduleStep[],
  fill: readonly string[],
): (at: number) => boolean {
  const isReached = reachedPlaces(typesOfTurns(turns), touched);
  return (at) => {
    if (isReached(at) || fill.length + many.length > 0) return false;
    const turn = itemAt(turns, at);
    return isStage(turn) && !(paces.isAnyDue && turn.some(({ id }) => paces.isDue(id)));
  };
}

export interface WriteBackInput {
  readonly model: Model;
  readonly plan: Plan;
  /** What stands there again, as it was decided; nothing of it is checked any more. */
  readonly entries: ReadonlyMap<string, Entry>;
  /** Every pace comes round at once, as rehearsals show it. */
  readonly isEveryPace?: boolean;
}

/**
 * An earlier run is undone: what it wrote is written back, and what is kept is worked out. Nothing reacts, cascades or makes records; at which row
 * of its table a roll-up that reacts is, is kept all the same. Nobody else saves meanwhile.
 */
export function* writeBack({
  model,
  plan,
  entries,
  isEveryPace = false,
}: WriteBackInput): Generator<Need, RunOutcome, Answer> {
  const paces = new Deferral(new Map(), isEveryPace);
  const { state, fields } = new Run({
    model,
    paces,
    facts: null,
    writePrecedence: new WritePrecedence([], () => true),
  });
  yield* state.edit(entries);
  const stages = quietStepsOf(plan);
  const isOfNoAccount = ofNoAccount(state, stages, []);
  for (const [at, stage] of stages.entries()) {
    if (isOfNoAccount(at)) continue;
    const problem = yield* fields.workOut(stage, []);
    if (problem) return { kind: 'refused', problems: [problem] };
  }
  const later = paces.later();
  if (later.length > 0) yield* ask<'defer'>({ kind: 'defer', later });
  return { kind: 'done', ripple: state.ripple(later) };
}

export interface MakeAfterInput {
  readonly model: Model;
  readonly plan: Plan;
  readonly rule: CompiledCreate;
  /** What a run over many records made and changed, or a page of it, by `recordKey`. */
  readonly touched: ReadonlyMap<string, Touched>;
  /** What of it people entered. */
  readonly edits: readonly Edit[];
  /** Records for which it is asked now. */
  readonly asked?: readonly string[];
  /** What the rule meant before the day turned, and for which records that may matter. */
  readonly turned?: TurnedMaker;
  readonly newId: () => string;
  readonly facts: RunContext | null;
}

/** What one rule that makes records does after a run over many, whose other rules are worked out as sets; nobody else saves meanwhile. */
export function* makeAfter({
  model,
  plan,
  rule,
  touched,
  edits,
  asked = [],
  newId,
  facts,
  turned,
}: MakeAfterInput): Generator<Need, RunOutcome, Answer> {
  const run = new Run({ model, facts, ...afterwards(edits) });
  run.state.takeUp(touched);
  const problem = yield* run.makers.make(rule, {
    ...{ plan, asked: new Map([[rule.id, asked]]), newId },
    turned: turned ? new Map([[rule.id, turned]]) : NOWHERE,
  });
  if (problem) return { kind: 'refused', problems: [problem] };
  yield* run.state.propose();
  return { kind: 'done', ripple: run.state.ripple([]) };
}

/** Every pace has come round; only what people entered stands against the rules. */
const afterwards = (edits: readonly Edit[]) => ({
  writePrecedence: new WritePrecedence(edits, () => false),
  paces: new Deferral(new Map(), true),
});

const inEditOrder = (problems: readonly EditProblem[]): EditProblem[] =>
  [...problems].sort((a, b) => a.index - b.index);

const tooLarge = (size: number): EditProblem => ({
  ...{ code: 'run.size', index: 0, data: { records: size, most: MOST_TOUCHED } },
  message: `This would touch ${writeCount(size)} records at once; at most ${writeCount(MOST_TOUCHED)} go into one run. Nothing was saved; split it into parts.`,
});

interface Claimed {
  readonly entries: ReadonlyMap<string, Entry>;
  readonly problems: readonly EditProblem[];
}

const typesKnown = new WeakMap<readonly ScheduleStep[], readonly (readonly string[])[]>();

/** The types that matter to rules that are worked out together; none of what is asked in any event. */
function typesOfTurns(turns: readonly ScheduleStep[]): readonly (readonly string[])[] {
  let types = typesKnown.get(turns);
  if (!types) {
    const ofTurn = (turn: ScheduleStep) =>
      isStage(turn) ? [...new Set(turn.flatMap((rule) => [...touchedTypes(rule)]))] : [];
    typesKnown.set(turns, (types = turns.map(ofTurn)));
  }
  return types;
}

/** Locks, reads again, and goes on until what is held covers what is touched. Answers the edits as they apply under the locks. */
function* claimEverything(
  {
    model,
    plan,
    edits,
    learnt = [],
    isAlone = false,
    asked = NOBODY,
    facts,
    bounds = BOUNDS,
  }: PropagateInput,
  paces: Deferral,
): Generator<Need, Claimed, Answer> {
  const held = new Set<string>();
  const byPeople = createByPerson(plan, edits);
  let wanted: readonly Claim[] = [...learnt, ...claimsByPeople(byPeople)];
  for (;;) {
    const { entries, problems } = yield* applyEdits(model, edits);
    if (entries.size > MOST_TOUCHED) return { entries, problems: [tooLarge(entries.size)] };
    const above = yield* readAbove(model, entries);
    const all = [
      ...problems,
      ...checkLinks(model, entries, above),
      ...checkOpenLinks({ model, plan }, entries),
      ...(yield* checkUnique(model, entries)),
      ...(yield* checkMadeByPeople(model, byPeople)),
    ];
    if (all.length > 0) return { entries, problems: all };
    if (isAlone) return { entries, problems: [] };
    const claims = inLockOrder(model, [
      ...wanted,
      ...(yield* claimsOf({ model, plan, paces, entries, above, asked, facts: facts ?? null, bounds })),
    ]);
    const missing = claims.filter((claim) => !held.has(claimKey(claim)));
    if (missing.length === 0) return { entries, problems: [] };
    const { isAsRead }: Answers['lock'] = yield* ask<'lock'>({ kind: 'lock', claims: missing });
    // What was seen before the locks is what they hold: it needn't be gone over again.
    if (isAsRead) return { entries, problems: [] };
    for (const claim of claims) {
      held.add(claimKey(claim));
      held.add(claimKey({ ...claim, strength: 'read' }));
    }
    wanted = [];
  }
}

const NOBODY: ReadonlyMap<string, readonly string[]> = new Map();
const NOWHERE: ReadonlyMap<string, TurnedMaker> = new Map();

const withoutIds = (): never => {
  throw new TypeError('A rule makes a record in this run: `newId` must be given.');
};

const claimKey = (claim: Claim): string => `${recordKey(claim)} ${claim.strength}`;

/** One run: what it has touched, and what the rules of each kind do in it. */
class Run {
  readonly state: RunState;
  readonly makers: CreateRules;
  readonly fields: FieldRules;

  constructor(given: RunGiven) {
    this.state = new RunState(given);
    const sets = new BulkWrites(this.state);
    this.makers = new CreateRules(this.state, sets);
    this.fields = new FieldRules(this.state, sets);
  }
}

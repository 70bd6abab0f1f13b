import { fieldIn, type LinkRef, type Model, typeIn } from '../model';
import type { Plan } from '../plan';
import {
  type AnyCompiled,
  assignedReads,
  asksWhich,
  type CompiledCreate,
  type CompiledHandOn,
  type CompiledLinked,
  type CompiledRule,
  handedOutcome,
  isAskedBy,
  isClaiming,
  isCreate,
  isHandOn,
  isReacting,
  oneLink,
  readsField,
} from '../rules';
import { OUTSIDE } from '../expression';
import { isError, type Outcome, sameValue, type Value } from '../values';
import { type Affected, affectedTargets, causesInOrder, isReached, type Touched } from './affected';
import { layersAbove, loopWords } from './all-the-way';
import { applyEdits, type Entry, titleOf } from './apply-edits';
import { checkLinks, readAbove } from './check-links';
import { checkUnique } from './check-unique';
import { firstNumbers, numberNew } from './number-new';
import { checkOpenLinks } from './open-links';
import { claimsOf } from './claims';
import { checkMadeByPeople, claimsByPeople, madeByPeople, takenBack } from './made-by-people';
import { isInTouch, type Making, makingOf, type ToMake, type ToMove, type ToWrite } from './making';
import type { Edit, EditProblem } from './edit';
import { handedToMany, handOn, type Pair, takersOf } from './hand-on';
import { inLockOrder } from './lock-order';
import {
  ask,
  type Answer,
  type Answers,
  type Claim,
  type HandedToMany,
  type KeptAccumulator,
  type KeptLeader,
  type KeptRow,
  type Need,
  type RecordSet,
  rowSet,
  type Work,
  type WorkedOut,
  type Write,
} from './need';
import { Paces } from './paces';
import { cellKey, type CellRef, emptyRow, recordKey, type Row, sameOutcome, withChanges } from './record';
import { reactionFails, Restraint } from './reactions';
import { settledByTouched } from './settled';
import { UpReader } from './up-reader';
import {
  type Change,
  type OutsideTarget,
  type Proposed,
  type RecordEvent,
  type Ripple,
  whichOf,
  type Withdrawn,
  type WrittenMany,
} from './ripple';

export interface PropagateInput {
  readonly model: Model;
  readonly plan: Plan;
  /** Each names another record; see `readEdits`. */
  readonly edits: readonly Edit[];
  /** Rules that are worked out for every record of their target's type, whatever was edited: drafts that are tried. */
  readonly fill?: readonly string[];
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
  /** What an earlier run did is written back: rules that react don't. */
  readonly isUndo?: boolean;
  /** Nobody else writes meanwhile (a rehearsal, a store in memory): no locks are asked for. */
  readonly isAlone?: boolean;
}

export type RunOutcome =
  | { readonly kind: 'done'; readonly ripple: Ripple }
  | { readonly kind: 'refused'; readonly problems: readonly EditProblem[] };

/** Most records that one run may touch before it is refused, with nothing saved. */
export const MOST_TOUCHED = 100_000;

/**
 * The engine: one run. It says what it needs of sets of records and is told; it does no I/O and has no clock. The same
 * generator serves the browser's worker, rehearsals and real saves. The result doesn't depend on the order of the edits
 * or of the rules: rules are worked out in the plan's order, each once for each target, after all that it reads is final.
 */
export function* propagate(input: PropagateInput): Generator<Need, RunOutcome, Answer> {
  const paces = new Paces(input.due ?? new Map(), input.isEveryPace === true);
  const { entries, problems } = yield* claimEverything(input, paces);
  if (problems.length > 0) return { kind: 'refused', problems: inEditOrder(problems) };
  const fill = input.fill ?? [];
  const isStill = (rule: string) => input.isUndo === true || fill.includes(rule);
  const run = new Run(input.model, new Restraint(input.edits, isStill, input.isUndo === true), paces);
  const standing = input.isUndo ? yield* takenBack(input.plan, entries) : entries;
  yield* run.edit(yield* numberNew(input.model, standing));
  const making = {
    plan: input.plan,
    asked: input.asked ?? NOBODY,
    newId: input.newId ?? withoutIds,
  };
  yield* run.linkMade(madeByPeople(input.plan, input.edits));
  for (const turn of turnsOf(input.plan)) {
    const problem = !isStage(turn) ? yield* run.make(turn, making) : yield* run.workOut(turn, fill);
    if (problem) return { kind: 'refused', problems: [problem] };
    if (run.size > MOST_TOUCHED) return { kind: 'refused', problems: [tooLarge(run.size)] };
  }
  yield* run.propose();
  const later = paces.later();
  if (later.length > 0) yield* ask<'later'>({ kind: 'later', later });
  return { kind: 'done', ripple: run.ripple(later) };
}

export interface MakeAfterInput {
  readonly model: Model;
  readonly plan: Plan;
  readonly rule: CompiledCreate;
  /** What a run over many records made and changed, or a page of it, by `recordKey`. */
  readonly touched: ReadonlyMap<string, Touched>;
  /** What of it people entered. */
  readonly edits: readonly Edit[];
  readonly newId: () => string;
}

/** What one rule that makes records does after a run over many, whose other rules are worked out as sets; nobody else saves meanwhile. */
export function* makeAfter({
  model,
  plan,
  rule,
  touched,
  edits,
  newId,
}: MakeAfterInput): Generator<Need, RunOutcome, Answer> {
  const run = new Run(model, new Restraint(edits, () => false), new Paces(new Map(), true));
  run.takeUp(touched);
  const problem = yield* run.make(rule, { plan, asked: NOBODY, newId });
  if (problem) return { kind: 'refused', problems: [problem] };
  yield* run.propose();
  return { kind: 'done', ripple: run.ripple([]) };
}

const inEditOrder = (problems: readonly EditProblem[]): EditProblem[] =>
  [...problems].sort((a, b) => a.index - b.index);

const tooLarge = (size: number): EditProblem => ({
  ...{ code: 'run.size', index: 0, data: { records: size, most: MOST_TOUCHED } },
  message: `This would touch ${size.toLocaleString('en')} records at once; at most ${MOST_TOUCHED.toLocaleString('en')} go into one run. Nothing was saved; split it into parts.`,
});

interface Claimed {
  readonly entries: ReadonlyMap<string, Entry>;
  readonly problems: readonly EditProblem[];
}

/** Locks, reads again, and goes on until what is held covers what is touched. Answers the edits as they apply under the locks. */
function* claimEverything(
  { model, plan, edits, learnt = [], isAlone = false, asked = NOBODY }: PropagateInput,
  paces: Paces,
): Generator<Need, Claimed, Answer> {
  const held = new Set<string>();
  const byPeople = madeByPeople(plan, edits);
  let wanted: readonly Claim[] = [...learnt, ...claimsByPeople(byPeople)];
  for (;;) {
    const { entries, problems } = yield* applyEdits(model, edits);
    if (entries.size > MOST_TOUCHED) return { entries, problems: [tooLarge(entries.size)] };
    const above = yield* readAbove(model, entries);
    const all = [
      ...problems,
      ...checkLinks(model, entries, above),
      ...checkOpenLinks(model, entries),
      ...(yield* checkUnique(model, entries)),
      ...(yield* checkMadeByPeople(model, byPeople)),
    ];
    if (all.length > 0) return { entries, problems: all };
    if (isAlone) return { entries, problems: [] };
    const claims = inLockOrder(model, [
      ...wanted,
      ...(yield* claimsOf({ model, plan, paces, entries, above, asked })),
    ]);
    const missing = claims.filter((claim) => !held.has(claimKey(claim)));
    if (missing.length === 0) return { entries, problems: [] };
    yield* ask<'lock'>({ kind: 'lock', claims: missing });
    for (const claim of claims) {
      held.add(claimKey(claim));
      held.add(claimKey({ ...claim, strength: 'read' }));
    }
    wanted = [];
  }
}

const NOBODY: ReadonlyMap<string, readonly string[]> = new Map();

const withoutIds = (): never => {
  throw new TypeError('A rule makes a record in this run: `newId` must be given.');
};

const claimKey = (claim: Claim): string => `${recordKey(claim)} ${claim.strength}`;

/** What has its turn together: rules that write fields, or one that makes records. */
export type Turn = readonly CompiledRule[] | CompiledCreate;

const turnsOfPlans = new WeakMap<Plan, readonly Turn[]>();

/** The turns of a run, in their order. */
export function turnsOf(plan: Plan): readonly Turn[] {
  let turns = turnsOfPlans.get(plan);
  if (!turns) turnsOfPlans.set(plan, (turns = inTurns(plan.turns)));
  return turns;
}

const stagesOfPlans = new WeakMap<Plan, readonly (readonly CompiledRule[])[]>();

/**
 * Rules that can be worked out together: over the same link and nothing else, none reading what another of them writes; and all that one
 * rule hands on. Others stand alone. Rules that make records aren't among them.
 */
export function stagesOf(plan: Plan): readonly (readonly CompiledRule[])[] {
  let stages = stagesOfPlans.get(plan);
  if (!stages) stagesOfPlans.set(plan, (stages = inTurns(plan.rules).filter(isStage)));
  return stages;
}

const isStage = (turn: Turn | undefined): turn is readonly CompiledRule[] => Array.isArray(turn);

function inTurns(rules: readonly AnyCompiled[]): Turn[] {
  const turns: Turn[] = [];
  for (const rule of rules) {
    const before = turns.at(-1);
    const last = isStage(before) ? (before as CompiledRule[]) : undefined;
    if (isCreate(rule)) {
      turns.push(rule);
      continue;
    }
    if (isHandOn(rule) && last && isHandOn(last[0]!) && last[0].id === rule.id) {
      last.push(rule);
      continue;
    }
    const link = oneLink(rule);
    const isSameLink =
      link !== null && !rule.recursion && !isReacting(rule) && last?.every((other) => isOver(other, link));
    const isFree = last?.every((other) => !readsField(rule, other.writes) && !isAskedBy(rule, other.writes));
    if (last && isSameLink && isFree) last.push(rule);
    else turns.push([rule]);
  }
  return turns;
}

const isOver = (rule: CompiledRule, link: LinkRef): boolean => {
  const own = oneLink(rule);
  return (
    own !== null && !rule.recursion && !isReacting(rule) && own.type === link.type && own.link === link.link
  );
};

/** What one run has touched so far. */
class Run {
  readonly #touched = new Map<string, Touched>();
  /** Records that were read and aren't touched, or weren't yet. */
  readonly #read = new Map<string, Row>();
  readonly #changes: Change[] = [];
  readonly #events: RecordEvent[] = [];
  readonly #outside: OutsideTarget[] = [];
  /** The wave of each cell that a rule changed; what people entered is wave 0. */
  readonly #waves = new Map<string, number>();
  /** A rule that reacts and couldn't be worked out. */
  #failed: { readonly rule: CompiledRule; readonly id: string } | null = null;
  /** Why what was entered can't stand. */
  #claimed: EditProblem | null = null;
  readonly #many: WrittenMany[] = [];
  readonly #proposals: Proposed[] = [];
  readonly #withdrawn: Withdrawn[] = [];
  #needs = 0;
  #worked = 0;

  constructor(
    private readonly model: Model,
    private readonly restraint: Restraint,
    private readonly paces: Paces,
  ) {}

  get size(): number {
    return this.#touched.size;
  }

  /** Goes on from what is written already. */
  takeUp(touched: ReadonlyMap<string, Touched>): void {
    for (const [key, entry] of touched) this.#touched.set(key, entry);
  }

  /** Wave 0: what people entered, and what link policies do. Fields that already have the value aren't written. */
  *edit(entries: ReadonlyMap<string, Entry>): Generator<Need, void, Answer> {
    const writes = [...entries.values()].flatMap((entry): Write[] => {
      const { type, id, kind } = entry;
      const because = (field: string): readonly CellRef[] => {
        const cause = entry.causes.get(field);
        return cause ? [cause] : [];
      };
      const events: RecordEvent[] =
        kind === 'edit' ? [] : [{ kind: EVENTS[kind], type, id, wave: 0, causes: because('') }];
      const changes = Array.from(entry.fields, (field): Change => ({
        type,
        id,
        field,
        before: entry.before?.values[field] ?? null,
        after: entry.after?.values[field] ?? null,
        error: null,
        errorBefore: null,
        wave: 0,
        rule: null,
        causes: because(field),
      }));
      if (changes.length + events.length === 0) return [];
      this.#touched.set(recordKey(entry), entry);
      if (kind === 'restore') this.restraint.restored(entry);
      const write = { kind, type, id, wave: 0, changes, events };
      const { deletedWith, madeFor } = entry;
      return [{ ...write, ...(deletedWith ? { deletedWith } : {}), ...(madeFor ? { madeFor } : {}) }];
    });
    yield* this.write(writes);
  }

  /**
   * Works out rules that go together: by difference where only children changed, else again from all of them. Answers why the run
   * can't go on, where it can't.
   */
  *workOut(
    stage: readonly CompiledRule[],
    fill: readonly string[],
  ): Generator<Need, EditProblem | null, Answer> {
    const many = this.#many.length > 0 ? stage.filter((rule) => this.readsMany(rule)) : [];
    if (many.some(isHandOn)) return this.tooManyInTurn(many[0]!);
    if (many.length > 0) {
      const problem = yield* this.fillMany(many);
      if (problem) return problem;
    }
    const rules = stage.filter(
      (rule) =>
        !many.includes(rule) &&
        (isReached(rule, this.#touched) ||
          fill.includes(rule.id) ||
          (this.paces.isWaiting(rule) && this.paces.asked(rule, this.#touched).length > 0)),
    );
    if (rules.length === 0) return null;
    // Rules of one stage go over one link, so their targets are of one type.
    const { type } = rules[0]!.writes;
    const isFilled = rules.some((rule) => fill.includes(rule.id));
    const everything = isFilled ? yield* ask<'everything'>({ kind: 'everything', type }) : null;
    const due: Due[] = [];
    for (const rule of rules) {
      const isFilled = fill.includes(rule.id);
      let affected = yield* this.targetsOf(rule);
      if (this.paces.isWaiting(rule) && !isFilled) {
        const paced = yield* this.paces.of(rule, affected, this.#touched);
        if (paced.loop.length > 0) return yield* this.loopProblem(rule, paced.loop);
        affected = paced.affected;
      }
      due.push({ rule, affected, all: isFilled ? everything : null });
    }
    const [{ rule }] = due as [Due];
    if (isHandOn(rule)) return yield* this.handOn(stage.filter(isHandOn));
    if (rule.recursion) return yield* this.workOutAllTheWay(due[0]!);
    yield* this.workOutDue(due);
    for (const one of due)
      if (one.rule.kind === 'linked' && !this.restraint.isUndo) yield* this.askWhich(one.rule, one);
    return this.#claimed ?? (yield* this.reactionProblem());
  }

  /** What people made in place of rules is named by the record that it is for. */
  *linkMade(made: ReturnType<typeof madeByPeople>): Generator<Need, void, Answer> {
    for (const { maker, source, id } of made)
      yield* this.nameMade(maker, source, { type: maker.makes, id, field: '' });
  }

  /** A rule makes records, and looks after those that it made. */
  *make(
    rule: CompiledCreate,
    { plan, asked, newId }: MakingGiven,
  ): Generator<Need, EditProblem | null, Answer> {
    if (this.restraint.isStill(rule.id)) return null;
    const wanted = asked.get(rule.id) ?? [];
    const isNear = isInTouch(rule) && [...this.#touched.values()].some(({ type }) => type === rule.makes);
    if (wanted.length === 0 && !isNear && !this.isReachedBy(rule)) return null;
    const many = this.#many.find((written) => readsField(rule, written));
    if (many) return this.tooManyInTurn(rule);
    this.#needs += 1;
    const rowsOf = (type: string, ids: Iterable<string>) => this.rowsOf(type, ids);
    const of = { model: this.model, plan, rule, touched: this.#touched, rowsOf, asked: wanted };
    const made = yield* makingOf(of, this.restraint);
    if (made.failed !== null) return yield* this.reactionProblemOn(rule, rule.writes.type, made.failed);
    if (made.claimed) return this.claimMade(rule, made.claimed);
    this.note(rule, made);
    this.#worked += made.makes.length + made.writes.length;
    for (const one of made.moves.filter(({ kind }) => kind === 'restore')) {
      const problem = yield* this.moveMade(rule, one);
      if (problem) return problem;
      yield* this.nameMade(rule, one.source.id, { type: rule.makes, id: one.row.id, field: '' });
    }
    yield* this.makeAll(rule, made.makes, newId);
    yield* this.writeMade(rule, made.writes);
    // A link of its own doesn't hold back what goes.
    for (const one of made.moves.filter(({ kind }) => kind === 'delete')) {
      const problem = yield* this.moveMade(rule, one);
      if (problem) return problem;
    }
    return null;
  }

  private isReachedBy(rule: CompiledCreate): boolean {
    return (
      isReached(rule, this.#touched) ||
      [...this.#touched.values()].some(({ type, after }) => type === rule.writes.type && after?.deleted)
    );
  }

  private note(rule: CompiledCreate, { proposals, withdrawn, overruled, outside }: Making): void {
    this.#proposals.push(...proposals.map((one) => ({ ...one, wave: this.waveAfter(one.causes) })));
    this.#withdrawn.push(...withdrawn);
    this.restraint.overruled.push(...overruled);
    this.#outside.push(...outside.map((id) => ({ type: rule.writes.type, id, field: '', rule: rule.id })));
  }

  private waveAfter(causes: readonly CellRef[]): number {
    return 1 + causes.reduce((wave, cause) => Math.max(wave, this.#waves.get(cellKey(cause)) ?? 0), 0);
  }

  /** Each with its serial numbers, in one order. */
  private *makeAll(
    rule: CompiledCreate,
    makes: readonly ToMake[],
    newId: () => string,
  ): Generator<Need, void, Answer> {
    const type = rule.makes;
    const first = yield* firstNumbers(this.model, type, makes.length);
    const writes = makes.map(({ source, values: given, causes }, at): Write & { readonly source: string } => {
      const numbers = Array.from(first, ([field, start]) => [field, start.plus(at)] as const);
      const values = { ...given, ...Object.fromEntries(numbers) };
      const ref = { type, id: newId() };
      const wave = this.waveAfter(causes);
      const changes = Object.entries(values).flatMap(([field, after]): Change[] =>
        after === null
          ? []
          : [
              {
                ...ref,
                field,
                after,
                before: null,
                error: null,
                errorBefore: null,
                wave,
                rule: rule.id,
                causes,
              },
            ],
      );
      const events: RecordEvent[] = [{ ...ref, kind: 'created', wave, causes, rule: rule.id }];
      this.restraint.assigned({ ...ref, values: given });
      this.#waves.set(cellKey({ ...ref, field: '' }), wave);
      this.#touched.set(recordKey(ref), {
        ...{ ...ref, before: null, after: withChanges(emptyRow(this.model, ref), changes) },
        fields: new Set(changes.map(({ field }) => field)),
      });
      const madeFor = { rule: rule.id, source: source.id };
      return { ...ref, kind: 'create', wave, changes, events, madeFor, source: source.id };
    });
    yield* this.write(writes.map(({ source: _source, ...write }) => write));
    for (const { source, id } of writes) yield* this.nameMade(rule, source, { type, id, field: '' });
  }

  /** The record for which one was made names it, and is given what it gives, where somebody didn't enter something else. */
  private *nameMade(rule: CompiledCreate, source: string, made: CellRef): Generator<Need, void, Answer> {
    const { type, field } = rule.writes;
    if (field === '' && rule.given.length === 0) return;
    const row = (yield* this.rowsOf(type, [source])).get(source);
    if (!row) return;
    const wanted: Record<string, Value> = field === '' ? {} : { [field]: made.id };
    const own = (yield* this.rowsOf(made.type, [made.id])).get(made.id)!;
    const reader = new UpReader(this.model, (of, ids) => this.rowsOf(of, ids));
    yield* reader.load([own], assignedReads(rule.given));
    for (const one of rule.given) {
      const outcome = handedOutcome(one, { now: own, before: own }, reader.read);
      if (outcome !== OUTSIDE && !isError(outcome)) wanted[one.target.key] = outcome.value;
    }
    const values: Record<string, Value> = {};
    for (const [key, value] of Object.entries(wanted)) {
      const cell = { type, id: source, field: key };
      if (sameValue(row.values[key] ?? null, value)) continue;
      if (this.restraint.isEntered(cell)) this.restraint.overruled.push({ ...cell, rule: rule.id, value });
      else values[key] = value;
    }
    if (Object.keys(values).length > 0) yield* this.writeMade(rule, [{ row, values, causes: [made] }]);
  }

  /** Fields of records that are there already, written by a rule that makes others. */
  private *writeMade(rule: CompiledCreate, writes: readonly ToWrite[]): Generator<Need, void, Answer> {
    for (const { row: seen, values, causes } of writes) {
      const { type, id } = seen;
      const row = (yield* this.rowsOf(type, [id])).get(id) ?? seen;
      const wave = this.waveAfter(causes);
      const changes = Object.entries(values).map(([field, after]): Change => ({
        ...{ type, id, field, after, before: row.values[field] ?? null },
        ...{ error: null, errorBefore: null, wave, rule: rule.id, causes },
      }));
      this.touch(row, changes);
      yield* this.write([{ kind: 'edit', type, id, wave, changes, events: [] }]);
    }
  }

  /** Into the bin with what goes along by the policies of links, or out of it. */
  private *moveMade(
    rule: CompiledCreate,
    { kind, row, source, causes }: ToMove,
  ): Generator<Need, EditProblem | null, Answer> {
    const { type, id } = row;
    const { entries, problems } = yield* applyEdits(this.model, [{ kind, type, id }]);
    const [problem] = problems;
    if (problem) return { ...problem, index: 0, message: `“${rule.name}”: ${problem.message}` };
    const isGone = this.#touched.get(recordKey(source))?.after?.deleted === true;
    const wave = this.waveAfter(causes);
    const writes = [...entries.values()].map((entry): Write => {
      const ref = { type: entry.type, id: entry.id };
      const isRoot = entry.id === id && entry.type === type;
      const because = isRoot ? causes : [...entry.causes.values()];
      const known = this.#touched.get(recordKey(entry));
      this.#touched.set(recordKey(entry), {
        ...{ ...ref, before: known ? known.before : entry.before, after: entry.after },
        fields: new Set([...(known?.fields ?? []), ...entry.fields]),
      });
      if (entry.kind === 'restore') this.restraint.restored(entry);
      const at = isRoot ? wave : wave + 1;
      this.#waves.set(cellKey({ ...ref, field: '' }), at);
      const changes = Array.from(entry.fields, (field): Change => ({
        ...{
          ...ref,
          field,
          before: entry.before?.values[field] ?? null,
          after: entry.after?.values[field] ?? null,
        },
        ...{ error: null, errorBefore: null, wave: at, rule: null, causes: because },
      }));
      const events: RecordEvent[] =
        entry.kind === 'delete' || entry.kind === 'restore'
          ? [
              {
                ...ref,
                kind: EVENTS[entry.kind],
                wave: at,
                causes: because,
                ...(isRoot ? { rule: rule.id } : {}),
              },
            ]
          : [];
      const write = { ...ref, kind: entry.kind, wave: at, changes, events };
      const deletedWith = isRoot || isGone ? source : entry.deletedWith;
      return entry.kind === 'delete' && deletedWith ? { ...write, deletedWith } : write;
    });
    yield* this.write(writes);
    return null;
  }

  /** Of links for which several are found a person is asked; where one is chosen or found meanwhile nobody is any more. */
  private *askWhich(rule: CompiledLinked, { affected, all }: Due): Generator<Need, void, Answer> {
    if (!asksWhich(rule)) return;
    const { type } = rule.writes;
    const ids = [...affected.targets.keys(), ...(all?.ids ?? [])];
    if (ids.length === 0) return;
    this.#needs += 1;
    const found: Answers['candidates'] = yield* ask<'candidates'>({
      kind: 'candidates',
      rule,
      targets: rowSet(type, ids),
    });
    for (const id of new Set(ids)) {
      const candidates = found.get(id);
      if (!candidates) {
        this.#withdrawn.push({ rule: rule.id, source: id });
        continue;
      }
      const causes = affected.targets.get(id) ?? [];
      this.#proposals.push(whichOf(rule, id, candidates, { causes, wave: this.waveAfter(causes) }));
    }
  }

  /** What people must approve or be told of goes with the run. */
  *propose(): Generator<Need, void, Answer> {
    const [proposals, withdrawn] = [this.#proposals, this.#withdrawn];
    if (proposals.length + withdrawn.length > 0)
      yield* ask<'propose'>({ kind: 'propose', proposals, withdrawn });
  }

  private claimMade(rule: CompiledCreate, cell: CellRef): EditProblem {
    const { name } = fieldIn(this.model, cell.type, cell.field);
    const message = `${name} is kept in step by the rule “${rule.name}” with the ${typeIn(this.model, rule.writes.type).name} that this was made for, so it can’t be entered here. Change it there, or let the rule take changes back.`;
    const data = { rule: rule.id, name: rule.name };
    return { code: 'edit.kept', index: this.restraint.editOf(cell), place: cell.field, message, data };
  }

  /** What a rule hands on at creation or on change: all its fields are worked out before one of them is written. */
  private *handOn(parts: readonly CompiledHandOn[]): Generator<Need, EditProblem | null, Answer> {
    const [first] = parts as [CompiledHandOn];
    if (this.restraint.isStill(first.id)) return null;
    const rowsOf = (type: string, ids: Iterable<string>) => this.rowsOf(type, ids);
    const of = { model: this.model, touched: this.#touched, rowsOf };
    const found = yield* takersOf({ ...of, rule: first }, (row) => this.restraint.isRestored(row));
    if ('many' in found) return yield* this.handOnMany(parts, found.many);
    const changed: WorkedOut[] = [];
    const causes = new Map<CompiledRule, Affected['targets']>();
    for (const rule of parts) {
      this.#needs += 1;
      const handed = yield* handOn({ ...of, rule }, found.takers, this.restraint);
      if (handed.failed) this.#failed = { rule, id: handed.failed.id };
      changed.push(...handed.changed);
      causes.set(rule, handed.causes);
      this.restraint.overruled.push(...handed.overruled);
      this.#outside.push(...handed.outside.map((id) => ({ ...rule.writes, id, rule: rule.id })));
    }
    this.#worked += changed.length;
    yield* this.keep(changed, causes);
    return yield* this.reactionProblem();
  }

  /** The same to so many that they are written as a set. */
  private *handOnMany(
    parts: readonly CompiledHandOn[],
    pairs: ReadonlyMap<string, Pair>,
  ): Generator<Need, EditProblem | null, Answer> {
    const rowsOf = (type: string, ids: Iterable<string>) => this.rowsOf(type, ids);
    const handed: HandedToMany[] = [];
    for (const rule of parts) {
      const given = yield* handedToMany({ model: this.model, rule, touched: this.#touched, rowsOf }, pairs);
      if ('failed' in given) {
        const source = pairs.get(given.failed)!.source;
        const message = reactionFails(rule, titleOf(this.model, source));
        return { code: 'rule.reaction', index: 0, message, data: { rule: rule.id, id: source.id } };
      }
      handed.push({ rule, given, except: this.restraint.enteredIn(rule.writes) });
    }
    this.#needs += 1;
    const counts: Answers['handOnMany'] = yield* ask<'handOnMany'>({ kind: 'handOnMany', parts: handed });
    yield* this.wroteMany(parts, counts);
    return null;
  }

  /** Rules that read what was written as a set are filled as a set, too. */
  private *fillMany(rules: readonly CompiledRule[]): Generator<Need, EditProblem | null, Answer> {
    for (const leave of [true, false]) {
      const some = rules.filter((rule) => this.paces.isWaiting(rule) === leave);
      if (some.length === 0) continue;
      this.#needs += 1;
      const entered = some.flatMap(({ writes }) =>
        this.restraint.enteredIn(writes).map((id) => ({ ...writes, id })),
      );
      const counts: Answers['fillMany'] = yield* ask<'fillMany'>({
        kind: 'fillMany',
        rules: some,
        leave,
        entered,
      });
      if (!leave) yield* this.wroteMany(some, counts);
    }
    return null;
  }

  /** Takes note of what was written as a set, and looks at the touched records of its type anew. */
  private *wroteMany(
    rules: readonly CompiledRule[],
    counts: readonly number[],
  ): Generator<Need, void, Answer> {
    const { type } = rules[0]!.writes;
    for (const [at, rule] of rules.entries()) {
      const records = counts[at]!;
      if (records === 0) continue;
      this.#many.push({ ...rule.writes, rule: rule.id, records });
    }
    for (const key of [...this.#read.keys()]) if (key.startsWith(`${type} `)) this.#read.delete(key);
    const known = [...this.#touched.values()].filter((entry) => entry.type === type && entry.after);
    if (known.length === 0) return;
    const set = rowSet(
      type,
      known.map(({ id }) => id),
    );
    const { rows }: Answers['records'] = yield* ask<'records'>({ kind: 'records', set });
    for (const entry of known) {
      const after = rows.get(entry.id);
      if (after) this.#touched.set(recordKey(entry), { ...entry, after });
    }
  }

  /** Whether a rule reads what this run wrote as a set. */
  private readsMany(rule: CompiledRule): boolean {
    return this.#many.some((written) => readsField(rule, written) || isAskedBy(rule, written));
  }

  private tooManyInTurn(rule: AnyCompiled): EditProblem {
    const [written] = this.#many.filter((one) => readsField(rule, one));
    const records = written?.records.toLocaleString('en') ?? '';
    const message = `This would change ${records} records at once, from which “${rule.name}” would have to hand on, or make records, in turn. Nothing was saved; pause that rule, or change fewer records.`;
    return { code: 'run.size', index: 0, message, data: { rule: rule.id } };
  }

  /** A person entered something where a rule keeps the field in step. */
  private claim(rule: CompiledRule, cell: CellRef): void {
    const message = `${rule.target.name} is kept in step here by the rule “${rule.name}”, so it can’t be entered. Change it where it comes from, or pause the rule.`;
    const data = { rule: rule.id, name: rule.name };
    this.#claimed ??= {
      code: 'edit.kept',
      index: this.restraint.editOf(cell),
      place: cell.field,
      message,
      data,
    };
  }

  /** An error in a rule that reacts undoes the run. */
  private *reactionProblem(): Generator<Need, EditProblem | null, Answer> {
    const failed = this.#failed;
    if (!failed) return null;
    const { rule, id } = failed;
    return yield* this.reactionProblemOn(rule, rule.writes.type, id);
  }

  private *reactionProblemOn(
    rule: AnyCompiled,
    type: string,
    id: string,
  ): Generator<Need, EditProblem, Answer> {
    const rows = yield* this.rowsOf(type, [id]);
    const title = rows.has(id) ? titleOf(this.model, rows.get(id)!) : id;
    return {
      code: 'rule.reaction',
      index: 0,
      message: reactionFails(rule, title),
      data: { rule: rule.id, id },
    };
  }

  /** Works a rule out that goes all the way down: parts first, and above them only what follows from a part that changed. */
  private *workOutAllTheWay({ rule, affected, all }: Due): Generator<Need, EditProblem | null, Answer> {
    const { type, field } = rule.writes;
    const starts = [...affected.targets.keys(), ...(all?.ids ?? [])];
    this.#needs += 1;
    const { layers, wholesOf, loop } = yield* layersAbove(rule, starts, this.#touched);
    if (loop.length > 0) return yield* this.loopProblem(rule, loop);
    const causes = new Map<string, CellRef[]>(
      Array.from(affected.targets, ([id, because]) => [id, [...because]]),
    );
    const always = new Set(all?.ids);
    const isOutside = new Set<string>();
    for (const layer of layers) {
      const ids = layer.filter((id) => !isOutside.has(id) && (causes.has(id) || always.has(id)));
      if (ids.length === 0) continue;
      const targets = new Map(ids.map((id) => [id, causesInOrder(causes.get(id) ?? [])]));
      const filled = all ? rowSet(type, ids) : null;
      const seen = this.#outside.length;
      const changed = yield* this.workOutDue([
        { rule, affected: { targets, whole: affected.whole }, all: filled },
      ]);
      for (const id of changed)
        for (const whole of wholesOf.get(id) ?? []) {
          const because = causes.get(whole) ?? [];
          because.push({ type, id, field });
          causes.set(whole, because);
        }
      // What a part that isn't known gives, isn't known of the whole either.
      for (const { id } of this.#outside.slice(seen)) isOutside.add(id);
      for (const id of layer)
        if (isOutside.has(id)) for (const whole of wholesOf.get(id) ?? []) isOutside.add(whole);
    }
    const known = new Set(this.#outside.map(({ id }) => id));
    for (const id of isOutside) if (!known.has(id)) this.#outside.push({ ...rule.writes, id, rule: rule.id });
    return null;
  }

  private *loopProblem(rule: CompiledRule, loop: readonly string[]): Generator<Need, EditProblem, Answer> {
    const rows = yield* this.rowsOf(rule.writes.type, loop);
    const chain = loop.map((id) => (rows.has(id) ? titleOf(this.model, rows.get(id)!) : id));
    const message = loopWords(this.model, rule, chain);
    return { code: 'rule.loop', index: 0, message, data: { chain, rule: rule.id } };
  }

  /** Works rules out for their targets, and writes what differs. Answers the records that it changed. */
  private *workOutDue(due: readonly Due[]): Generator<Need, readonly string[], Answer> {
    const causes = new Map<CompiledRule, Affected['targets']>();
    const work: Work[] = [];
    const changed: WorkedOut[] = [];
    for (const { rule, affected, all } of due) {
      const { type } = rule.writes;
      causes.set(rule, affected.targets);
      const again = new Set(affected.targets.keys());
      if (all) {
        const targets = again.size > 0 ? rowSet(type, [...all.ids, ...again]) : all;
        this.#worked += targets.ids.length;
        work.push({ rule, targets });
        continue;
      }
      const rowsOf = (type: string, ids: Iterable<string>) => this.rowsOf(type, ids);
      for (const found of yield* settledByTouched({ rule, affected, touched: this.#touched, rowsOf })) {
        again.delete(found.id);
        if (found.worked) changed.push(found.worked);
      }
      this.#worked += affected.targets.size;
      if (again.size > 0) work.push({ rule, targets: rowSet(type, again) });
    }
    if (work.length > 0) {
      this.#needs += 1;
      const answer: Answers['workOut'] = yield* ask<'workOut'>({ kind: 'workOut', work });
      this.#outside.push(...answer.outside.map(({ rule, id }) => ({ ...rule.writes, id, rule: rule.id })));
      changed.push(...answer.changed);
    }
    return yield* this.keep(changed, causes);
  }

  /** What is affected, without what is in the bin by now. */
  private *targetsOf(rule: CompiledRule): Generator<Need, Affected, Answer> {
    this.#needs += 1;
    const affected = yield* affectedTargets(this.model, rule, this.#touched);
    const gone = [...affected.targets.keys()].filter(
      (id) => this.#touched.get(recordKey({ type: rule.writes.type, id }))?.after?.deleted,
    );
    if (gone.length === 0) return affected;
    const targets = new Map(affected.targets);
    for (const id of gone) targets.delete(id);
    return { targets, whole: affected.whole };
  }

  /** Writes what was worked out: each record once, with all its fields that changed. Answers the records that changed. */
  private *keep(
    changed: readonly WorkedOut[],
    causes: ReadonlyMap<CompiledRule, Affected['targets']>,
  ): Generator<Need, readonly string[], Answer> {
    if (changed.length === 0) return [];
    const { type } = changed[0]!.rule.writes;
    const byId = new Map<string, Kept>();
    for (const worked of changed) {
      const { rule, id, accumulator, row, leader } = worked;
      const { field } = rule.writes;
      const { before, after } = this.restraint.held(worked);
      if (row !== undefined && isError(after) && !isError(before)) {
        this.#failed ??= { rule, id };
        continue;
      }
      let entry = byId.get(id);
      if (!entry) byId.set(id, (entry = { changes: [], accumulators: [], rows: [], leaders: [], wave: 1 }));
      if (accumulator) entry.accumulators.push({ rule: rule.id, field, accumulator });
      if (leader !== undefined) entry.leaders.push({ field, leader });
      if (row !== undefined) entry.rows.push({ rule: rule.id, field, row });
      if (sameOutcome(before, after)) continue;
      // What was filled where it was empty isn't filled again where that is undone.
      if (rule.kind === 'linked' && rule.holds === 'whereEmpty' && this.restraint.isUndo) continue;
      if (isClaiming(rule) && this.restraint.isEntered({ type, id, field }))
        this.claim(rule, { type, id, field });
      const because = causes.get(rule)!.get(id) ?? [];
      let wave = 0;
      for (const cause of because) wave = Math.max(wave, this.#waves.get(cellKey(cause)) ?? 0);
      entry.wave = Math.max(entry.wave, wave + 1);
      entry.changes.push({
        type,
        id,
        field,
        before: valueOf(before),
        after: valueOf(after),
        error: errorOf(after),
        errorBefore: errorOf(before),
        wave: wave + 1,
        rule: rule.id,
        causes: because,
      });
    }
    const rows = yield* this.rowsOf(type, byId.keys());
    const writes: Write[] = [];
    for (const [id, { changes, accumulators, rows: ofMaps, leaders, wave }] of byId) {
      if (changes.length > 0) this.touch(rows.get(id)!, changes);
      const write = { kind: 'edit' as const, type, id, wave, changes, events: [], accumulators };
      writes.push({
        ...write,
        ...(ofMaps.length > 0 ? { rows: ofMaps } : {}),
        ...(leaders.length > 0 ? { leaders } : {}),
      });
    }
    yield* this.write(writes);
    return writes.flatMap(({ id, changes }) => (changes.length > 0 ? [id] : []));
  }

  /** Records as they stand now in this run, each read once. */
  private *rowsOf(type: string, ids: Iterable<string>): Generator<Need, Map<string, Row>, Answer> {
    const rows = new Map<string, Row>();
    const unread: string[] = [];
    for (const id of ids) {
      const key = recordKey({ type, id });
      const row = this.#touched.get(key)?.after ?? this.#read.get(key);
      if (row) rows.set(id, row);
      else unread.push(id);
    }
    if (unread.length === 0) return rows;
    const answer = (yield { kind: 'records', set: rowSet(type, unread) }) as Answers['records'];
    for (const [id, row] of answer.rows) {
      rows.set(id, row);
      this.#read.set(recordKey(row), row);
    }
    return rows;
  }

  private touch(row: NonNullable<Touched['after']>, changes: readonly Change[]): void {
    const key = recordKey(row);
    const known = this.#touched.get(key);
    const base = known?.after ?? row;
    const fields = new Set([...(known?.fields ?? []), ...changes.map(({ field }) => field)]);
    this.#touched.set(key, {
      type: row.type,
      id: row.id,
      fields,
      before: known ? known.before : row,
      after: withChanges(base, changes),
    });
  }

  private *write(writes: readonly Write[]): Generator<Need, void, Answer> {
    for (const { changes, events } of writes) {
      this.#changes.push(...changes);
      this.#events.push(...events);
      for (const change of changes) if (change.wave > 0) this.#waves.set(cellKey(change), change.wave);
    }
    if (writes.length === 0) return;
    this.#needs += 1;
    yield* ask<'write'>({ kind: 'write', writes });
  }

  ripple(later: Ripple['later']): Ripple {
    const cost = { records: this.#touched.size + this.#worked, needs: this.#needs };
    const { overruled } = this.restraint;
    return {
      events: this.#events,
      changes: this.#changes,
      outside: this.#outside,
      overruled,
      later,
      many: this.#many,
      proposals: this.#proposals,
      cost,
    };
  }
}

/** What rules that make records work with. */
interface MakingGiven {
  readonly plan: Plan;
  readonly asked: ReadonlyMap<string, readonly string[]>;
  readonly newId: () => string;
}

/** A rule with the targets that it is worked out for: those that are affected, or all there are. */
interface Due {
  readonly rule: CompiledRule;
  readonly affected: Affected;
  readonly all: RecordSet | null;
}

/** What is written of one record. */
interface Kept {
  readonly changes: Change[];
  readonly accumulators: KeptAccumulator[];
  readonly rows: KeptRow[];
  readonly leaders: KeptLeader[];
  wave: number;
}

const EVENTS = { create: 'created', delete: 'deleted', restore: 'restored' } as const;
const valueOf = (outcome: Outcome): Value => (isError(outcome) ? null : outcome.value);
const errorOf = (outcome: Outcome) => (isError(outcome) ? outcome.error : null);

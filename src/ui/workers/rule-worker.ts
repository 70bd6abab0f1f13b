import { buildPlan } from '@/core/plan';
import { pendingOver, type RecordStore, type WireEdit } from '@/core/engine';
import { type Model, type ModelDefinition, readModel } from '@/core/model';
import { compileRule, type Rule, type RuleDefinition } from '@/core/rules';
import { certain, type WireValue } from '@/core/values';
import {
  type CascadeView,
  type ConditionRead,
  cascadeView,
  type CreateView,
  createView,
  type Explanation,
  explain,
  type FamilyData,
  familyStore,
  fittedFamily,
  numberedIds,
  planWithDrafts,
  type Proof,
  ruleOn,
  traceConditions,
  recordToWire,
  SaveSession,
  type RunSetting,
  type SaveRehearsed,
  type SavesRehearsed,
  settledDayOf,
  type Standpoint,
  runScheduleOf,
  type Strength,
  strengthOf,
  type StrengthProgress,
  advanceDayIn,
  withDrafts,
  type WireRecord,
  workedOut,
} from '@/core/verify';

/** What a ruleWorker works on: a family, the model, and the rules that are live. */
export interface RuleWorkerSetup {
  readonly model: ModelDefinition;
  /** The day that relative dates count from. */
  readonly settledDay: string;
  readonly family: FamilyData;
  readonly live: readonly Rule[];
  /** Names of the workspace's people by id. */
  readonly people: Readonly<Record<string, string>>;
  /** Who makes the edits, until somebody else does; `null`: nobody is named. */
  readonly person: string | null;
}

/** What is staged, save by save, and from which save on it is another day, or somebody else acts. */
export interface Staged {
  readonly runs: readonly (readonly WireEdit[])[];
  readonly settings: readonly RunSetting[];
}

/** What a cascade is tried with. */
export interface Tried {
  /** Values that the record is given; left out, such that the rule acts. */
  readonly staged?: Readonly<Record<string, WireValue>> | null;
  /** The record that cascades, where it isn't the family's root. */
  readonly sample?: { readonly type: string; readonly id: string } | null;
}

export type Worked =
  | { readonly kind: 'worked'; readonly explanation: Explanation }
  | { readonly kind: 'cascade'; readonly cascade: CascadeView }
  | { readonly kind: 'create'; readonly create: CreateView }
  | { readonly kind: 'unsound'; readonly messages: readonly string[] };

export interface Rehearsed {
  /** Save by save, at least one. */
  readonly rehearsals: readonly SaveRehearsed[];
  /** Members of the family that would stand otherwise than they do, and new ones. Only these: a family may be large. */
  readonly changed: readonly WireRecord[];
  /** Ids of members that would be in the bin. */
  readonly gone: readonly string[];
}

/** A rule that takes part although it isn't live. */
export interface Drafted {
  readonly id: string;
  readonly name: string;
  readonly definition: RuleDefinition;
}

export const asRule = (draft: Drafted): Rule => ({ ...draft, version: draft.id });

/** What a rule asks of a record, test by test, and what it gives there; `null` where it keeps nothing on it. */
export interface RuleRead {
  readonly conditions: readonly ConditionRead[];
  readonly explanation: Explanation | null;
}

/** A rule with all its proofs. */
export interface ProvenRule extends Pick<RuleWorkerSetup, 'model' | 'settledDay' | 'live'> {
  readonly rule: Rule;
  readonly proofs: readonly Proof[];
  /** Only how many ways to change it are noticed is asked. */
  readonly isFigure?: boolean;
}

/** How far the search for what no proof would notice has come, or what it found. */
export type StrengthStep =
  | { readonly kind: 'working'; readonly progress: StrengthProgress }
  | { readonly kind: 'found'; readonly strength: Strength };

/** For how long the worker goes on before it can be told something else, in milliseconds. */
const PIECE = 60;

function openSetup({ model: definition, settledDay, family, live, people, person }: RuleWorkerSetup) {
  const model = readModel(definition, settledDay);
  return {
    model,
    family,
    live,
    store: familyStore(model, family),
    members: new Set(family.members),
    names: { ...family.names, ...people },
    people: new Set(Object.keys(people)),
    person,
  };
}

/** Works rules out on a sample family, by the same core that the server runs. Lives in a web worker; saves nothing. */
export class RuleWorker {
  #key = '';
  #open: ReturnType<typeof openSetup> | null = null;

  isOpen(key: string): boolean {
    return this.#key === key;
  }

  open(key: string, setup: RuleWorkerSetup): void {
    this.#open = openSetup(setup);
    this.#session = null;
    this.#key = key;
  }

  /**
   * Opens the value that a rule, live or not, gives for the family's root: by the settled day, or by another. Of a cascade it tells who takes
   * what once the root is changed: as staged, or so that the rule acts.
   */
  explain(rule: Rule, day: string | null = null, { staged = null, sample = null }: Tried = {}): Worked {
    const opened = this.opened();
    const { family, live, names } = opened;
    const { model, store } = day === null ? opened : this.onDay(day, rule.id);
    const [{ facts }] = runScheduleOf(1, settledDayOf(model), [{ run: 0, person: opened.person }]) as [
      Standpoint,
    ];
    const { plan, problems } = planWithDrafts(model, live, [rule]);
    // Only what concerns the rule on its own keeps it from being worked out; another writer of its target doesn't.
    const alone = buildPlan(model, [rule]);
    const compiled = plan.turns.find(({ id }) => id === rule.id) ?? alone.plan.turns[0];
    if (!compiled) {
      const own = [...alone.problems, ...problems].filter((problem) => problem.rule === rule.id);
      return { kind: 'unsound', messages: [...new Set(own.map(({ message }) => message))] };
    }
    const { type, id } = sample ?? family.root;
    const root = certain(store.row(type, id));
    const context = { model, plan, store, names };
    if (compiled.kind === 'create') {
      const known = plan.turns.includes(compiled) ? plan : alone.plan;
      return { kind: 'create', create: createView({ ...context, plan: known, facts }, compiled, root) };
    }
    if (compiled.kind === 'keptCascade' || compiled.kind === 'reactingCascade') {
      const whole = compileRule(model, rule);
      const first = whole.ok ? whole.rule : compiled;
      return {
        kind: 'cascade',
        cascade: cascadeView({ ...context, facts }, first as typeof compiled, root, {
          ...{ staged, people: [...opened.people] },
        }),
      };
    }
    return { kind: 'worked', explanation: explain(context, compiled, root) };
  }

  /** The family as it would stand on a day: what live rules with dates keep is worked out for it, but for the rule at hand. */
  private onDay(day: string, leftOut: string): { model: Model; store: RecordStore } {
    const { model, live, store, names } = this.opened();
    const others = live.filter(({ id }) => id !== leftOut);
    const [{ facts }] = runScheduleOf(1, day) as [Standpoint];
    const input = { model, store, names, live: others, drafts: [], newId: numberedIds() };
    const turned = advanceDayIn(input, day, facts.moment);
    return { model: turned.model, store: turned.after };
  }

  /** A family as it stands by a day, before its first edit: what live rules keep is worked out for it. */
  workOut({
    model: definition,
    settledDay,
    family,
    live,
  }: Omit<RuleWorkerSetup, 'people' | 'person'>): FamilyData {
    const model = readModel(definition, settledDay);
    return workedOut(model, buildPlan(model, live).plan, fittedFamily(model, family).family);
  }

  /** Runs what is staged, save by save; what comes after one that is refused isn't run. */
  rehearse(staged: Staged, drafts: readonly Drafted[]): Rehearsed {
    const { model, members, store } = this.opened();
    const { rehearsals, last } = this.through(staged, drafts);
    const edited = new Set(staged.runs.flat().flatMap((edit) => edit.id ?? []));
    const changed: WireRecord[] = [];
    const gone: string[] = [];
    for (const row of pendingOver(last, store)) {
      // What a rule made is a new member.
      if (store.row(row.type, row.id) && !members.has(row.id) && !edited.has(row.id)) continue;
      if (row.deleted) gone.push(row.id);
      else changed.push(recordToWire(model, row));
    }
    return { rehearsals, changed, gone };
  }

  #session: { readonly drafts: string; readonly saves: SaveSession } | null = null;

  /** Kept as long as the family and the drafts stay: what is staged at the end is worked out, not what stands before it. */
  private session(drafts: readonly Drafted[]): SaveSession {
    const key = JSON.stringify(drafts);
    if (this.#session?.drafts !== key) {
      const { model, live, store, names, people } = this.opened();
      const saves = new SaveSession({ model, live, store, names, people, drafts: drafts.map(asRule) });
      this.#session = { drafts: key, saves };
    }
    return this.#session.saves;
  }

  private through({ runs, settings }: Staged, drafts: readonly Drafted[]): SavesRehearsed {
    const { person } = this.opened();
    return this.session(drafts).rehearse({ saves: runs, settings: [{ run: 0, person }, ...settings] });
  }

  /** Reads a rule that takes part on one record, step by step, as it stands with what is staged; `null` where the record isn't there then. */
  read(
    rule: string,
    at: { readonly type: string; readonly id: string },
    staged: Staged,
    drafts: readonly Drafted[],
  ): RuleRead | null {
    const { names } = this.opened();
    const { last: store, model, facts } = this.through(staged, drafts);
    const plan = this.session(drafts).plan(model);
    const row = store.row(at.type, at.id);
    const context = { model, plan, store, names };
    const compiled = row && ruleOn(context, rule, row);
    if (!compiled || row.deleted) return null;
    const isWorked =
      compiled.kind !== 'create' && compiled.kind !== 'reactingCascade' && compiled.writes.type === at.type;
    return {
      conditions: traceConditions({ ...context, facts }, compiled, row),
      explanation: isWorked ? explain(context, compiled, row) : null,
    };
  }

  #search: { readonly key: string; readonly run: ReturnType<typeof strengthOf> } | null = null;

  /** Begins to change a rule in every way that may matter (`strengthOf`); what was begun before is given up. */
  beginStrength(key: string, { model, settledDay, live, rule, proofs, isFigure = false }: ProvenRule): void {
    const rules = withDrafts(live, [rule]);
    this.#search = {
      key,
      run: strengthOf({ model: readModel(model, settledDay), rules, rule, proofs, isFigure }),
    };
  }

  /** Goes on with it for a moment. `null` where something else was begun meanwhile. */
  goOnWithStrength(key: string): StrengthStep | null {
    if (this.#search?.key !== key) return null;
    const until = performance.now() + PIECE;
    let step = this.#search.run.next();
    while (!step.done && performance.now() < until) step = this.#search.run.next();
    if (!step.done) return { kind: 'working', progress: step.value };
    this.#search = null;
    return { kind: 'found', strength: step.value };
  }

  private opened() {
    if (!this.#open) throw new Error('Open a family first');
    return this.#open;
  }
}

import type { EditProblem, RecordStore, WireEdit } from '@/core/engine';
import { fieldIn, type Model, readModel } from '@/core/model';
import { type Plan, type RuleProblem } from '@/core/plan';
import type { Rule } from '@/core/rules';
import { parseValue, sameValue, toWire, type WireValue, firstIn } from '@/core/values';
import { type FamilyData, familyStore, fittedFamily } from '@/core/verify/family/family';
import { type ProofRun, proposedKey, runThrough } from '@/core/verify/rehearsal/run-through';
import { daysOf, type RunSetting } from '@/core/verify/rehearsal/run-schedule';
import { PlannedRules } from '@/core/verify/rehearsal/planned-rules';

/** What must come of a proof's edits. Plain data. */
export type Expectation =
  /** At the end a field of a record holds a value; it `stays` where it held that at the beginning, too. */
  | {
      readonly kind: 'becomes' | 'stays';
      readonly type: string;
      readonly id: string;
      readonly field: string;
      readonly value: WireValue;
    }
  /** At the end a rule has made one for a record, or so many, and the first holds these values; other fields may hold anything. */
  | {
      readonly kind: 'isMade';
      readonly rule: string;
      readonly source: string;
      readonly values: Readonly<Record<string, WireValue>>;
      readonly times?: number;
    }
  /** At the end there is none that a rule made; there is a proposal of the rule that waits for a person, or there is none. */
  | { readonly kind: 'isNotMade'; readonly rule: string; readonly source: string }
  | { readonly kind: 'isProposed'; readonly rule: string; readonly source: string }
  | { readonly kind: 'isNotProposed'; readonly rule: string; readonly source: string }
  /** A run is refused, with a problem of this code. */
  | { readonly kind: 'isRefused'; readonly run: number; readonly code: string };

/** A rehearsal that is kept with what must come of it. It has its own copy of all that it hangs on, so it never changes by itself. */
export interface Proof {
  readonly id: string;
  /** The rule that it is about. */
  readonly rule: string;
  readonly name: string;
  readonly family: FamilyData;
  /** The settled day by which it runs. */
  readonly day: string;
  /** Ids of people that its edits may name. */
  readonly people: readonly string[];
  /** Its edits, run by run. */
  readonly runs: readonly (readonly WireEdit[])[];
  /** On which days its runs are made, and by whom; left out: all on its day, by nobody. */
  readonly settings?: readonly RunSetting[];
  readonly expectations: readonly Expectation[];
}

/** An expectation that didn't come true. */
export interface Missed {
  readonly expectation: Expectation;
  /** What came instead: a value, why a run was refused, or nothing. */
  readonly found: WireValue | { readonly problems: readonly EditProblem[] };
}

export type ProofResult =
  | { readonly kind: 'held' }
  | { readonly kind: 'missed'; readonly missed: readonly Missed[] }
  /** The rules don't fit the model, or each other. */
  | { readonly kind: 'unsound'; readonly problems: readonly RuleProblem[] }
  /** Fields or types are gone that it hangs on. */
  | { readonly kind: 'unfit'; readonly lost: number };

/** A proof read on a model as of its day, to be run through any rules. */
export interface ReadyProof {
  readonly proof: Proof;
  readonly model: Model;
  readonly records: RecordStore;
  /** How many values or records of it don't fit the model any more. */
  readonly lost: number;
}

export function readyProof(model: Model, proof: Proof): ReadyProof {
  const onDay = proof.day === model.settledDay ? model : readModel(model, proof.day);
  const { family, lost } = fittedFamily(onDay, proof.family);
  return { proof, model: onDay, records: familyStore(onDay, family), lost };
}

/** Runs a proof's edits through rules (`runThrough`), and holds what came of them against what it expects. */
export const proofThrough = (ready: ReadyProof, rules: PlannedRules): ProofResult =>
  endedThrough(ready, rules).result;

/** The same with how the records stand then, where it could be run. */
export function endedThrough(
  { proof, model, records, lost }: ReadyProof,
  rules: PlannedRules,
): { readonly result: ProofResult; readonly ended: ProofRun | null } {
  const { problems: own, ...atWork } = rules.on(model);
  const [, ...later] = daysOf(proof.day, proof.settings);
  const problems = [...own, ...later.flatMap((day) => atWork.onDay(day).problems)];
  if (problems.length > 0) return { result: { kind: 'unsound', problems }, ended: null };
  const isUnfit = proof.expectations.some((one) => !isThere(model, atWork.plan, one));
  if (lost > 0 || isUnfit) return { result: { kind: 'unfit', lost }, ended: null };
  const people = new Set(proof.people);
  const { runs, settings = [] } = proof;
  const ended = runThrough({ model, ...atWork }, { records, runs, people, settings });
  const missed = proof.expectations.flatMap((one): Missed[] => {
    const found = foundFor(model, ended, one);
    return found === HELD ? [] : [{ expectation: one, found }];
  });
  return { result: missed.length > 0 ? { kind: 'missed', missed } : { kind: 'held' }, ended };
}

export const runProof = (model: Model, rules: readonly Rule[], proof: Proof): ProofResult =>
  proofThrough(readyProof(model, proof), new PlannedRules(rules));

const HELD = Symbol('held');

/** What came of an expectation; `HELD` where it came true. */
function foundFor(
  model: Model,
  { base, store, refused, unfilled, proposed }: ProofRun,
  one: Expectation,
): typeof HELD | Missed['found'] {
  if (unfilled.length > 0) return { problems: unfilled };
  if (one.kind === 'isRefused') {
    const problems = refused.get(one.run);
    return problems?.some(({ code }) => code === one.code) ? HELD : problems ? { problems } : null;
  }
  // What would have come of a run that was refused isn't known.
  const [problems] = refused.values();
  if (problems) return { problems };
  if ('field' in one) {
    const found = wireAt(model, store, one);
    const was = one.kind === 'stays' ? wireAt(model, base, one) : null;
    const isKept = one.kind === 'becomes' || isSame(model, one, was);
    return isKept && isSame(model, one, found) ? HELD : found;
  }
  if (one.kind === 'isProposed' || one.kind === 'isNotProposed')
    return proposed.has(proposedKey(one)) === (one.kind === 'isProposed') ? HELD : null;
  const made = store.notes
    .made(one.rule, 'source', [one.source])
    .flatMap(({ made: id }) => typesOf(model).flatMap((type) => store.row(type, id) ?? []))
    .filter((row) => !row.deleted);
  if (one.kind === 'isNotMade') return made.length === 0 ? HELD : firstIn(made).id;
  const [first] = made;
  if (!first) return null;
  if (one.times !== undefined && made.length !== one.times) return made.length;
  const wrong = Object.entries(one.values).find(
    ([field, value]) =>
      !isSame(model, { type: first.type, field, value }, wireAt(model, store, { ...first, field })),
  );
  return wrong ? wireAt(model, store, { ...first, field: wrong[0] }) : HELD;
}

const typesOf = (model: Model): string[] => model.types.map(({ key }) => key);

interface Cell {
  readonly type: string;
  readonly id: string;
  readonly field: string;
}

/** What a field of a record holds; nothing where there is none, or it is in error. */
export function wireAt(model: Model, store: RecordStore, { type, id, field }: Cell): WireValue {
  const row = store.row(type, id);
  if (!row || row.deleted || row.errors[field]) return null;
  return toWire(fieldIn(model, type, field).type, row.values[field] ?? null);
}

/** Whether a value found is the one expected, whatever it is written like: `12`, `12.00`. */
function isSame(
  model: Model,
  { type, field, value }: { readonly type: string; readonly field: string; readonly value: WireValue },
  found: WireValue,
): boolean {
  const { type: of } = fieldIn(model, type, field);
  const [expected, is] = [parseValue(of, value), parseValue(of, found)];
  return expected.ok && is.ok && sameValue(expected.value, is.value);
}

/** Whether all that an expectation names is in the model and among the rules. */
function isThere(model: Model, plan: Plan, one: Expectation): boolean {
  if (one.kind === 'isRefused') return true;
  if ('field' in one) {
    const field = model.field(one.type, one.field);
    return field !== undefined && parseValue(field.type, one.value).ok;
  }
  const maker = plan.turns.find(({ id }) => id === one.rule);
  if (one.kind === 'isProposed' || one.kind === 'isNotProposed')
    return maker === undefined || maker.kind === 'create' || maker.kind === 'linked';
  if (one.kind === 'isNotMade' || maker === undefined) return maker === undefined || maker.kind === 'create';
  return (
    maker.kind === 'create' &&
    Object.entries(one.values).every(([key, value]) => {
      const field = model.field(maker.makes, key);
      return field !== undefined && parseValue(field.type, value).ok;
    })
  );
}

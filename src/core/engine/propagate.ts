import { type Model, typeIn } from '../model';
import type { Plan } from '../plan';
import type { CompiledRollUp } from '../rules';
import { isError, sameValue, type Outcome, type Value } from '../values';
import { affectedTargets, type Targets, type Touched } from './affected';
import { checkEdits } from './check-edits';
import { claimsOf } from './claims';
import type { Edit, EditProblem } from './edit';
import { inLockOrder } from './lock-order';
import {
  ask,
  type Answer,
  type Answers,
  type Claim,
  type Need,
  rowSet,
  type WorkedOut,
  type Write,
} from './need';
import { type CellRef, recordKey, type RecordRef, type Row } from './record';
import type { Change, OutsideTarget, RecordEvent, Ripple } from './ripple';

export interface PropagateInput {
  readonly model: Model;
  readonly plan: Plan;
  /** Each names another record; see `readEdits`. */
  readonly edits: readonly Edit[];
  /** Rules that are worked out for every record of their target's type, whatever was edited: drafts that are tried. */
  readonly fill?: readonly string[];
  /** Claims that an earlier try of the same run learnt that it needs. */
  readonly learnt?: readonly Claim[];
}

export type RunOutcome =
  | { readonly kind: 'done'; readonly ripple: Ripple }
  | { readonly kind: 'refused'; readonly problems: readonly EditProblem[] };

/**
 * The engine: one run. It says what it needs of sets of records and is told; it does no I/O and has no clock. The same
 * generator serves the browser's worker, rehearsals and real saves. The result doesn't depend on the order of the edits
 * or of the rules: rules are worked out in the plan's order, each once for each target, after all that it reads is final.
 */
export function* propagate(input: PropagateInput): Generator<Need, RunOutcome, Answer> {
  const run = new Run(input.model);
  const edited = yield* claimEverything(input);
  const problems = yield* checkEdits(input.model, input.edits, edited);
  if (problems.length > 0) return { kind: 'refused', problems };
  yield* run.edit(input.edits, edited);
  for (const rules of stagesOf(input.plan)) yield* run.workOut(rules, input.fill ?? []);
  return { kind: 'done', ripple: run.ripple() };
}

/** Locks, reads again, and goes on until what is held covers what is touched. Answers the edited records under the locks. */
function* claimEverything({
  model,
  plan,
  edits,
  learnt = [],
}: PropagateInput): Generator<Need, Map<string, Touched>, Answer> {
  const held = new Set<string>();
  let wanted: readonly Claim[] = learnt;
  for (;;) {
    const edited = yield* applyEdits(model, edits);
    const claims = inLockOrder(model, [...wanted, ...(yield* claimsOf(model, plan, edited))]);
    const missing = claims.filter((claim) => !held.has(claimKey(claim)));
    if (missing.length === 0) return edited;
    yield* ask<'lock'>({ kind: 'lock', claims: missing });
    for (const claim of claims) {
      held.add(claimKey(claim));
      held.add(claimKey({ ...claim, strength: 'read' }));
    }
    wanted = [];
  }
}

const claimKey = (claim: Claim): string => `${recordKey(claim)} ${claim.strength}`;

/** The edited records as they stand and as they will: nothing is written yet. */
function* applyEdits(model: Model, edits: readonly Edit[]): Generator<Need, Map<string, Touched>, Answer> {
  const rows = new Map<string, Row>();
  for (const type of new Set(edits.map((edit) => edit.type))) {
    const ids = edits.filter((edit) => edit.type === type).map((edit) => edit.id);
    const answer = yield* ask<'records'>({ kind: 'records', set: rowSet(type, ids) });
    for (const row of answer.rows.values()) rows.set(recordKey(row), row);
  }
  return new Map(
    edits.map((edit) => [recordKey(edit), applyEdit(model, edit, rows.get(recordKey(edit)) ?? null)]),
  );
}

function applyEdit(model: Model, edit: Edit, before: Row | null): Touched {
  const { type, id } = edit;
  if (edit.kind === 'delete')
    return { type, id, before, after: before && { ...before, deleted: true }, fields: new Set() };
  const base = before ?? emptyRow(model, edit);
  const fields = Object.keys(edit.values).filter(
    (field) => !sameValue(base.values[field] ?? null, edit.values[field] ?? null),
  );
  return {
    type,
    id,
    before,
    after: { ...base, values: { ...base.values, ...edit.values } },
    fields: new Set(fields),
  };
}

const emptyRow = (model: Model, { type, id }: RecordRef): Row => ({
  ...{ type, id, version: 1, deleted: false, errors: {} },
  values: Object.fromEntries(typeIn(model, type).fields.map((field) => [field.key, null])),
});

/** Rules that can be worked out together: over the same link, none reading what another of them writes. */
export function stagesOf(plan: Plan): CompiledRollUp[][] {
  const stages: CompiledRollUp[][] = [];
  for (const rule of plan.rules) {
    const last = stages.at(-1);
    const isSameLink = last?.every(
      (other) => other.link.type === rule.link.type && other.link.link === rule.link.link,
    );
    const isFree = last?.every(
      (other) =>
        !rule.reads.some((read) => read.type === other.writes.type && read.field === other.writes.field),
    );
    if (last && isSameLink && isFree) last.push(rule);
    else stages.push([rule]);
  }
  return stages;
}

const valueOf = (outcome: Outcome): Value => (isError(outcome) ? null : outcome.value);
const errorOf = (outcome: Outcome) => (isError(outcome) ? outcome.error : null);

/** What one run has touched so far. */
class Run {
  readonly #touched = new Map<string, Touched>();
  readonly #changes: Change[] = [];
  readonly #events: RecordEvent[] = [];
  readonly #outside: OutsideTarget[] = [];
  readonly #waves = new Map<string, number>();
  #needs = 0;
  #worked = 0;

  constructor(private readonly model: Model) {}

  /** Wave 0: what people entered. Fields that already have the value aren't written. */
  *edit(edits: readonly Edit[], edited: ReadonlyMap<string, Touched>): Generator<Need, void, Answer> {
    const writes = edits.flatMap((edit): Write[] => {
      const entry = edited.get(recordKey(edit))!;
      const kind = edit.kind === 'create' ? 'created' : edit.kind === 'delete' ? 'deleted' : null;
      const events: RecordEvent[] = kind ? [{ kind, type: edit.type, id: edit.id, wave: 0 }] : [];
      const changes = [...entry.fields].map((field): Change => ({
        ...{
          type: edit.type,
          id: edit.id,
          field,
          error: null,
          errorBefore: null,
          wave: 0,
          rule: null,
          causes: [],
        },
        before: entry.before?.values[field] ?? null,
        after: entry.after?.values[field] ?? null,
      }));
      if (changes.length + events.length === 0) return [];
      this.#touched.set(recordKey(edit), entry);
      return [{ kind: edit.kind, type: edit.type, id: edit.id, wave: 0, changes, events }];
    });
    yield* this.write(writes);
  }

  *workOut(rules: readonly CompiledRollUp[], fill: readonly string[]): Generator<Need, void, Answer> {
    const causes = new Map<string, Targets>();
    for (const rule of rules) causes.set(rule.id, yield* this.targetsOf(rule, fill.includes(rule.id)));
    const work = rules
      .map((rule) => ({ rule, targets: rowSet(rule.writes.type, causes.get(rule.id)!.keys()) }))
      .filter(({ targets }) => targets.ids.length > 0);
    if (work.length === 0) return;
    this.#needs += 1;
    this.#worked += work.reduce((sum, { targets }) => sum + targets.ids.length, 0);
    const answer: Answers['workOut'] = yield* ask<'workOut'>({ kind: 'workOut', work });
    const ruleOf = (id: string) => rules.find((rule) => rule.id === id)!;
    this.#outside.push(...answer.outside.map(({ rule, id }) => ({ ...ruleOf(rule).writes, id, rule })));
    yield* this.keep(answer.changed, ruleOf, causes);
  }

  private *targetsOf(rule: CompiledRollUp, everything: boolean): Generator<Need, Targets, Answer> {
    this.#needs += 1;
    const targets = yield* affectedTargets(this.model, rule, this.#touched);
    if (everything) {
      const all = yield* ask<'everything'>({ kind: 'everything', type: rule.writes.type });
      for (const id of all.ids) if (!targets.has(id)) targets.set(id, []);
    }
    for (const id of targets.keys())
      if (this.#touched.get(recordKey({ type: rule.writes.type, id }))?.after?.deleted) targets.delete(id);
    return targets;
  }

  private *keep(
    changed: readonly WorkedOut[],
    ruleOf: (id: string) => CompiledRollUp,
    causes: ReadonlyMap<string, Targets>,
  ): Generator<Need, void, Answer> {
    const writes: Write[] = [];
    for (const [type, found] of byType(changed, ruleOf)) {
      const { rows } = yield* ask<'records'>({
        kind: 'records',
        set: rowSet(
          type,
          found.map(({ id }) => id),
        ),
      });
      for (const { rule: ruleId, id, before, after } of found) {
        const rule = ruleOf(ruleId);
        const because = causes.get(ruleId)!.get(id) ?? [];
        const wave = 1 + Math.max(0, ...because.map((cause) => this.#waves.get(cellKey(cause)) ?? 0));
        const change: Change = {
          ...{ type, id, field: rule.writes.field, wave, rule: ruleId, causes: because },
          ...{
            before: valueOf(before),
            after: valueOf(after),
            error: errorOf(after),
            errorBefore: errorOf(before),
          },
        };
        this.touch(rows.get(id)!, change);
        writes.push({ kind: 'edit', type, id, wave, changes: [change], events: [] });
      }
    }
    yield* this.write(writes);
  }

  private touch(row: Row, change: Change): void {
    const key = recordKey(row);
    const known = this.#touched.get(key);
    const base = known?.after ?? row;
    const { [change.field]: _cleared, ...others } = base.errors;
    const errors = change.error ? { ...others, [change.field]: change.error } : others;
    const after: Row = { ...base, values: { ...base.values, [change.field]: change.after }, errors };
    const fields = new Set([...(known?.fields ?? []), change.field]);
    this.#touched.set(key, { type: row.type, id: row.id, before: known ? known.before : row, after, fields });
  }

  private *write(writes: readonly Write[]): Generator<Need, void, Answer> {
    for (const { changes, events } of writes) {
      this.#changes.push(...changes);
      this.#events.push(...events);
      for (const change of changes) this.#waves.set(cellKey(change), change.wave);
    }
    if (writes.length === 0) return;
    this.#needs += 1;
    yield* ask<'write'>({ kind: 'write', writes });
  }

  ripple(): Ripple {
    const cost = { records: this.#touched.size + this.#worked, needs: this.#needs };
    return { events: this.#events, changes: this.#changes, outside: this.#outside, cost };
  }
}

const cellKey = (cell: CellRef): string => `${recordKey(cell)} ${cell.field}`;

function byType(
  changed: readonly WorkedOut[],
  ruleOf: (id: string) => CompiledRollUp,
): Map<string, WorkedOut[]> {
  const types = new Map<string, WorkedOut[]>();
  for (const entry of changed) {
    const { type } = ruleOf(entry.rule).writes;
    types.set(type, [...(types.get(type) ?? []), entry]);
  }
  return types;
}

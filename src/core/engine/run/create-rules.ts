import { fieldIn, typeIn } from '@/core/model';
import type { Plan } from '@/core/plan';
import { assignedReads, type CompiledCreate, assignedOutcome, readsField } from '@/core/rules';
import { OUTSIDE } from '@/core/expression';
import { isError, sameValue, type Value, valueAt } from '@/core/values';
import { isReached } from '@/core/engine/reach/affected';
import { applyEdits } from '@/core/engine/edits/apply-edits';
import { firstNumbers } from '@/core/engine/edits/assign-serials';
import type { createByPerson } from '@/core/engine/edits/create-by-person';
import { makingOf } from '@/core/engine/create/create-run';
import type { Making } from '@/core/engine/create/making';
import type { TurnedMaker } from '@/core/engine/create/making';
import type { ToWrite } from '@/core/engine/create/making';
import type { ToMove } from '@/core/engine/create/making';
import type { ToMake } from '@/core/engine/create/making';
import { isInTouch } from '@/core/engine/create/making';
import type { EditProblem } from '@/core/engine/edits/types';
import type { Answer, Need, Write } from '@/core/engine/driver/need';
import {
  cellKey,
  type CellRef,
  emptyRow,
  recordKey,
  withChanges,
  type Change,
} from '@/core/engine/driver/record';
import { RouteReader } from '@/core/engine/reach/route-reader';
import type { RecordEvent } from '@/core/engine/driver/ripple';
import { EVENTS, type RunState } from './run-state';
import type { BulkWrites } from './bulk-writes';

/** What rules that make records work with. */
export interface MakingGiven {
  readonly plan: Plan;
  readonly asked: ReadonlyMap<string, readonly string[]>;
  readonly turned: ReadonlyMap<string, TurnedMaker>;
  readonly newId: () => string;
}

/** Rules that make records in a run, and look after those that they made. */
export class CreateRules {
  constructor(
    private readonly state: RunState,
    private readonly sets: BulkWrites,
  ) {}

  /** What people made in place of rules is named by the record that it is for. */
  *linkMade(made: ReturnType<typeof createByPerson>): Generator<Need, void, Answer> {
    for (const { maker, source, id } of made)
      yield* this.nameMade(maker, source, { type: maker.makes, id, field: '' });
  }

  /** A rule makes records, and looks after those that it made. */
  *make(
    rule: CompiledCreate,
    { plan, asked, turned: all, newId }: MakingGiven,
  ): Generator<Need, EditProblem | null, Answer> {
    if (this.state.writePrecedence.isSuppressed(rule.id)) return null;
    const wanted = asked.get(rule.id) ?? [];
    const isNear =
      isInTouch(rule) && [...this.state.touched.values()].some(({ type }) => type === rule.makes);
    const turned = all.get(rule.id);
    if (wanted.length === 0 && !turned && !isNear && !this.isReachedBy(rule)) return null;
    const many = this.state.many.find((written) => readsField(rule, written));
    if (many) return this.sets.tooManyInTurn(rule);
    this.state.needs += 1;
    const rowsOf = (type: string, ids: Iterable<string>) => this.state.rowsOf(type, ids);
    const { model, touched, facts } = this.state;
    const of = { model, plan, rule, touched, rowsOf, facts, asked: wanted, ...(turned ? { turned } : {}) };
    const made = yield* makingOf(of, this.state.writePrecedence);
    if (made.failed !== null) return yield* this.state.reactionProblemOn(rule, rule.writes.type, made.failed);
    if (made.claimed) return this.claimMade(rule, made.claimed);
    this.note(rule, made);
    this.state.worked += made.makes.length + made.writes.length;
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
      isReached(rule, this.state.touched) ||
      [...this.state.touched.values()].some(({ type, after }) => type === rule.writes.type && after?.deleted)
    );
  }

  private note(rule: CompiledCreate, { proposals, withdrawn, overruled, outside }: Making): void {
    this.state.proposals.push(
      ...proposals.map((one) => ({ ...one, wave: this.state.waveAfter(one.causes) })),
    );
    this.state.withdrawn.push(...withdrawn);
    this.state.writePrecedence.overruled.push(...overruled);
    this.state.outside.push(
      ...outside.map((id) => ({ type: rule.writes.type, id, field: '', rule: rule.id })),
    );
  }

  /** Each with its serial numbers, in one order. */
  private *makeAll(
    rule: CompiledCreate,
    makes: readonly ToMake[],
    newId: () => string,
  ): Generator<Need, void, Answer> {
    const type = rule.makes;
    const first = yield* firstNumbers(this.state.model, type, makes.length);
    const writes = makes.map(
      ({ source, values: given, assigned, causes }, at): Write & { readonly source: string } => {
        const numbers = Array.from(first, ([field, start]) => [field, start.plus(at)] as const);
        const values = { ...given, ...Object.fromEntries(numbers) };
        const ref = { type, id: newId() };
        const wave = this.state.waveAfter(causes);
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
        this.state.writePrecedence.assigned(ref, assigned);
        this.state.waves.set(cellKey({ ...ref, field: '' }), wave);
        this.state.touched.set(recordKey(ref), {
          ...{ ...ref, before: null, after: withChanges(emptyRow(this.state.model, ref), changes) },
          fields: new Set(changes.map(({ field }) => field)),
        });
        const madeFor = { rule: rule.id, source: source.id };
        return { ...ref, kind: 'create', wave, changes, events, madeFor, source: source.id };
      },
    );
    yield* this.state.write(writes.map(({ source: _source, ...write }) => write));
    for (const { source, id } of writes) yield* this.nameMade(rule, source, { type, id, field: '' });
  }

  /** The record for which one was made names it, and is given what it gives, where somebody didn't enter something else. */
  private *nameMade(rule: CompiledCreate, source: string, made: CellRef): Generator<Need, void, Answer> {
    const { type, field } = rule.writes;
    if (field === '' && rule.given.length === 0) return;
    const row = (yield* this.state.rowsOf(type, [source])).get(source);
    if (!row) return;
    const wanted: Record<string, Value> = field === '' ? {} : { [field]: made.id };
    const own = valueAt(yield* this.state.rowsOf(made.type, [made.id]), made.id);
    const reader = new RouteReader(this.state.model, (of, ids) => this.state.rowsOf(of, ids));
    yield* reader.load([own], assignedReads(rule.given));
    for (const one of rule.given) {
      const outcome = assignedOutcome(one, { now: own, before: own, facts: this.state.facts }, reader.read);
      if (outcome !== OUTSIDE && !isError(outcome)) wanted[one.target.key] = outcome.value;
    }
    const values: Record<string, Value> = {};
    for (const [key, value] of Object.entries(wanted)) {
      const cell = { type, id: source, field: key };
      if (sameValue(row.values[key] ?? null, value)) continue;
      if (this.state.writePrecedence.isEntered(cell))
        this.state.writePrecedence.overruled.push({ ...cell, rule: rule.id, value });
      else values[key] = value;
    }
    if (Object.keys(values).length > 0) yield* this.writeMade(rule, [{ row, values, causes: [made] }]);
  }

  /** Fields of records that are there already, written by a rule that makes others. */
  private *writeMade(rule: CompiledCreate, writes: readonly ToWrite[]): Generator<Need, void, Answer> {
    for (const { row: seen, values, causes } of writes) {
      const { type, id } = seen;
      const row = (yield* this.state.rowsOf(type, [id])).get(id) ?? seen;
      const wave = this.state.waveAfter(causes);
      const changes = Object.entries(values).map(([field, after]): Change => ({
        ...{ type, id, field, after, before: row.values[field] ?? null },
        ...{ error: null, errorBefore: null, wave, rule: rule.id, causes },
      }));
      this.state.touch(row, changes);
      yield* this.state.write([{ kind: 'edit', type, id, wave, changes, events: [] }]);
    }
  }

  /** Into the bin with what goes along by the policies of links, or out of it. */
  private *moveMade(
    rule: CompiledCreate,
    { kind, row, source, causes }: ToMove,
  ): Generator<Need, EditProblem | null, Answer> {
    const { type, id } = row;
    const { entries, problems } = yield* applyEdits(this.state.model, [{ kind, type, id }]);
    const [problem] = problems;
    if (problem) return { ...problem, index: 0, message: `“${rule.name}”: ${problem.message}` };
    const isGone = this.state.touched.get(recordKey(source))?.after?.deleted === true;
    const wave = this.state.waveAfter(causes);
    const writes = [...entries.values()].map((entry): Write => {
      const ref = { type: entry.type, id: entry.id };
      const isRoot = entry.id === id && entry.type === type;
      const because = isRoot ? causes : [...entry.causes.values()];
      const known = this.state.touched.get(recordKey(entry));
      this.state.touched.set(recordKey(entry), {
        ...{ ...ref, before: known ? known.before : entry.before, after: entry.after },
        fields: new Set([...(known?.fields ?? []), ...entry.fields]),
      });
      if (entry.kind === 'restore') this.state.writePrecedence.restored(entry);
      const at = isRoot ? wave : wave + 1;
      this.state.waves.set(cellKey({ ...ref, field: '' }), at);
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
    yield* this.state.write(writes);
    return null;
  }

  private claimMade(rule: CompiledCreate, cell: CellRef): EditProblem {
    const { name } = fieldIn(this.state.model, cell.type, cell.field);
    const message = `${name} is kept in step by the rule “${rule.name}” with the ${typeIn(this.state.model, rule.writes.type).name} that this was made for, so it can’t be entered here. Change it there, or let the rule take changes back.`;
    const data = { rule: rule.id, name: rule.name };
    return {
      code: 'edit.kept',
      index: this.state.writePrecedence.editOf(cell),
      place: cell.field,
      message,
      data,
    };
  }
}

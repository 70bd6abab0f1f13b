import type { RunContext } from '@/core/expression';
import type { Model } from '@/core/model';
import { type AnyCompiled, type CompiledRule, isClaiming } from '@/core/rules';
import { compareText, isError, type Outcome, type Value, valueAt, firstIn } from '@/core/values';
import type { Affected } from '@/core/engine/reach/affected';
import type { Touched } from '@/core/engine/driver/record';
import { titleOf } from '@/core/engine/edits/apply-edits';
import { type Entry, type EditProblem } from '@/core/engine/edits/types';
import type { Bounds } from '@/core/engine/reach/bounds';
import {
  ask,
  type Answer,
  type Answers,
  type KeptAccumulator,
  type KeptExtremum,
  type KeptRow,
  type Need,
  rowSet,
  type WorkedOut,
  type Write,
} from '@/core/engine/driver/need';
import type { Deferral } from '@/core/engine/reach/deferral';
import {
  cellKey,
  type CellRef,
  recordKey,
  type Row,
  sameOutcome,
  withChanges,
  type Change,
} from '@/core/engine/driver/record';
import { type WritePrecedence, reactionFails } from '@/core/engine/edits/write-precedence';
import type {
  Lapsed,
  OutsideTarget,
  Proposed,
  RecordEvent,
  Ripple,
  Withdrawn,
  WrittenMany,
} from '@/core/engine/driver/ripple';

/** What a run works with. */
export interface RunGiven {
  readonly model: Model;
  readonly writePrecedence: WritePrecedence;
  readonly paces: Deferral;
  /** Who makes its change, and when; `null` where it says neither. */
  readonly facts: RunContext | null;
  /** Whether what reaches more than are worked out one by one is left to a run over many, and whether a rule has rivals there. */
  readonly leaving?: Leaving;
}

export interface Leaving extends Bounds {
  readonly hasRivals: (rule: CompiledRule) => boolean;
}

/** What one run has touched so far, and what it comes to. */
export class RunState {
  readonly touched = new Map<string, Touched>();
  /** Records that were read and aren't touched, or weren't yet. */
  readonly read = new Map<string, Row>();
  readonly changes: Change[] = [];
  readonly events: RecordEvent[] = [];
  readonly outside: OutsideTarget[] = [];
  /** The wave of each cell that a rule changed; what people entered is wave 0. */
  readonly waves = new Map<string, number>();
  /** A rule that reacts and couldn't be worked out. */
  failed: { readonly rule: CompiledRule; readonly id: string } | null = null;
  /** Why what was entered can't stand. */
  claimed: EditProblem | null = null;
  readonly many: WrittenMany[] = [];
  readonly proposals: Proposed[] = [];
  readonly withdrawn: Withdrawn[] = [];
  readonly lapsed: Lapsed[] = [];
  needs = 0;
  worked = 0;

  readonly model: Model;
  readonly writePrecedence: WritePrecedence;
  readonly paces: Deferral;
  readonly facts: RunContext | null;
  readonly leaving: Leaving | null;

  constructor({ model, writePrecedence, paces, facts, leaving }: RunGiven) {
    this.leaving = leaving ?? null;
    this.model = model;
    this.writePrecedence = writePrecedence;
    this.paces = paces;
    this.facts = facts;
  }

  get size(): number {
    return this.touched.size;
  }

  /** Goes on from what is written already. */
  takeUp(touched: ReadonlyMap<string, Touched>): void {
    for (const [key, entry] of touched) this.touched.set(key, entry);
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
      this.touched.set(recordKey(entry), entry);
      if (kind === 'restore') this.writePrecedence.restored(entry);
      const write = { kind, type, id, wave: 0, changes, events };
      const { deletedWith, madeFor } = entry;
      return [{ ...write, ...(deletedWith ? { deletedWith } : {}), ...(madeFor ? { madeFor } : {}) }];
    });
    yield* this.write(writes);
  }

  waveAfter(causes: readonly CellRef[]): number {
    return 1 + causes.reduce((wave, cause) => Math.max(wave, this.waves.get(cellKey(cause)) ?? 0), 0);
  }

  /** What people must approve or be told of goes with the run. */
  *propose(): Generator<Need, void, Answer> {
    const [proposals, withdrawn] = [this.proposals, this.withdrawn];
    if (proposals.length + withdrawn.length > 0)
      yield* ask<'propose'>({ kind: 'propose', proposals, withdrawn });
  }

  /** A person entered something where a rule keeps the field in step. */
  claim(rule: CompiledRule, cell: CellRef): void {
    const message = `${rule.target.name} is kept in step here by the rule “${rule.name}”, so it can’t be entered. Change it where it comes from, or pause the rule.`;
    const data = { rule: rule.id, name: rule.name };
    this.claimed ??= {
      code: 'edit.kept',
      index: this.writePrecedence.editOf(cell),
      place: cell.field,
      message,
      data,
    };
  }

  /** A rule that reacts couldn't be worked out: of several the first by the record, and then by the rule, is told. */
  fails(rule: CompiledRule, id: string): void {
    const { failed } = this;
    if (!failed || compareText(`${id} ${rule.id}`, `${failed.id} ${failed.rule.id}`) < 0)
      this.failed = { rule, id };
  }

  /** An error in a rule that reacts undoes the run. */
  *reactionProblem(): Generator<Need, EditProblem | null, Answer> {
    const failed = this.failed;
    if (!failed) return null;
    const { rule, id } = failed;
    return yield* this.reactionProblemOn(rule, rule.writes.type, id);
  }

  *reactionProblemOn(rule: AnyCompiled, type: string, id: string): Generator<Need, EditProblem, Answer> {
    const rows = yield* this.rowsOf(type, [id]);
    const title = rows.has(id) ? titleOf(this.model, valueAt(rows, id)) : id;
    return {
      code: 'rule.reaction',
      index: 0,
      message: reactionFails(rule, title),
      data: { rule: rule.id, id },
    };
  }

  /** Writes what was worked out: each record once, with all its fields that changed. Answers the records that changed. */
  *keep(
    changed: readonly WorkedOut[],
    causes: ReadonlyMap<CompiledRule, Affected['targets']>,
    isRowLater = false,
  ): Generator<Need, readonly string[], Answer> {
    if (changed.length === 0) return [];
    const { type } = firstIn(changed).rule.writes;
    const byId = new Map<string, Kept>();
    for (const worked of changed) {
      const { rule, id, accumulator, row, leader } = worked;
      const { field } = rule.writes;
      const { before, after } = this.writePrecedence.held(worked);
      if (row !== undefined && isError(after) && !isError(before)) {
        this.fails(rule, id);
        continue;
      }
      let entry = byId.get(id);
      if (!entry) byId.set(id, (entry = { changes: [], accumulators: [], rows: [], leaders: [], wave: 1 }));
      if (accumulator) entry.accumulators.push({ rule: rule.id, field, accumulator });
      if (leader !== undefined) entry.leaders.push({ field, leader });
      if (row !== undefined && !isRowLater) entry.rows.push({ rule: rule.id, field, row });
      if (sameOutcome(before, after)) continue;
      if (isClaiming(rule) && this.writePrecedence.isEntered({ type, id, field }))
        this.claim(rule, { type, id, field });
      const because = valueAt(causes, rule).get(id) ?? [];
      let wave = 0;
      for (const cause of because) wave = Math.max(wave, this.waves.get(cellKey(cause)) ?? 0);
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
        ...(rule.half ? { version: rule.version } : {}),
        causes: because,
      });
    }
    const rows = yield* this.rowsOf(type, byId.keys());
    const writes: Write[] = [];
    for (const [id, { changes, accumulators, rows: ofMaps, leaders, wave }] of byId) {
      if (changes.length > 0) this.touch(valueAt(rows, id), changes);
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
  *rowsOf(type: string, ids: Iterable<string>): Generator<Need, Map<string, Row>, Answer> {
    const rows = new Map<string, Row>();
    const unread: string[] = [];
    for (const id of ids) {
      const key = recordKey({ type, id });
      const row = this.touched.get(key)?.after ?? this.read.get(key);
      if (row) rows.set(id, row);
      else unread.push(id);
    }
    if (unread.length === 0) return rows;
    const answer = (yield { kind: 'records', set: rowSet(type, unread) }) as Answers['records'];
    for (const [id, row] of answer.rows) {
      rows.set(id, row);
      this.read.set(recordKey(row), row);
    }
    return rows;
  }

  touch(row: NonNullable<Touched['after']>, changes: readonly Change[]): void {
    const key = recordKey(row);
    const known = this.touched.get(key);
    const base = known?.after ?? row;
    const fields = new Set([...(known?.fields ?? []), ...changes.map(({ field }) => field)]);
    this.touched.set(key, {
      type: row.type,
      id: row.id,
      fields,
      before: known ? known.before : row,
      after: withChanges(base, changes),
    });
  }

  *write(writes: readonly Write[]): Generator<Need, void, Answer> {
    for (const { changes, events } of writes) {
      this.changes.push(...changes);
      this.events.push(...events);
      for (const change of changes) if (change.wave > 0) this.waves.set(cellKey(change), change.wave);
    }
    if (writes.length === 0) return;
    this.needs += 1;
    yield* ask<'write'>({ kind: 'write', writes });
  }

  ripple(later: Ripple['later']): Ripple {
    const cost = { records: this.touched.size + this.worked, needs: this.needs };
    const { overruled } = this.writePrecedence;
    return {
      events: this.events,
      changes: this.changes,
      outside: this.outside,
      overruled,
      lapsed: this.lapsed,
      later,
      many: this.many,
      proposals: this.proposals,
      cost,
    };
  }
}

/** What is written of one record. */
interface Kept {
  readonly changes: Change[];
  readonly accumulators: KeptAccumulator[];
  readonly rows: KeptRow[];
  readonly leaders: KeptExtremum[];
  wave: number;
}

/** What happened to a record, by what was done to it. */
export const EVENTS = { create: 'created', delete: 'deleted', restore: 'restored' } as const;
const valueOf = (outcome: Outcome): Value => (isError(outcome) ? null : outcome.value);
const errorOf = (outcome: Outcome) => (isError(outcome) ? outcome.error : null);

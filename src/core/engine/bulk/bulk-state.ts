import type { RunContext } from '@/core/expression';
import type { Model } from '@/core/model';
import type { Plan } from '@/core/plan';
import type { AnyCompiled, CompiledRule } from '@/core/rules';
import { type Bounds, BOUNDS } from '@/core/engine/reach/bounds';
import { isReachedByTypes } from './reached-types';
import { itemAt, valueAt } from '@/core/values';
import { ask, type Answer, askSet, type Need, rowSet } from '@/core/engine/driver/need';
import { recordKey, type RecordRef, type Row, type Touched } from '@/core/engine/driver/record';
import type { ChangedQuery, SetAnswers, TouchedInRun } from '@/core/engine/driver/set-need';
import { titleOf } from '@/core/engine/edits/apply-edits';
import type { EditProblem } from '@/core/engine/edits/types';
import { reactionFails, type WritePrecedence } from '@/core/engine/edits/write-precedence';
import type { RowsOf } from '@/core/engine/reach/route-reader';

/** What a rule did in a run over many. */
export interface Filled {
  readonly rule: AnyCompiled;
  /** How many values it wrote, or records it made. */
  readonly records: number;
  /** How many more values it would have written where something else came first; left out where there are none. */
  readonly overruled?: number;
}

/** Why a run over many can't go on; caught where the walk began. */
export class BulkRefused extends Error {
  constructor(readonly problem: EditProblem) {
    super(problem.message);
  }
}

export interface BulkStateGiven {
  readonly model: Model;
  readonly plan: Plan;
  /** Who makes the run's change, and when. */
  readonly facts: RunContext | null;
  readonly writePrecedence: WritePrecedence;
  /** Types of which the run has made or changed records. */
  readonly types: Iterable<string>;
  /** Types of which records came or went without their first values: made one by one, restored or deleted. */
  readonly appeared?: Iterable<string>;
  /** How many are looked at together; left out for what saves go by. */
  readonly bounds?: Bounds;
}

/** What a run over many has touched so far, by type, and what rules did in it. */
export class BulkState {
  readonly model: Model;
  readonly plan: Plan;
  readonly facts: RunContext | null;
  readonly writePrecedence: WritePrecedence;
  readonly bounds: Bounds;
  readonly touched: Set<string>;
  readonly appeared: Set<string>;
  readonly #filled = new Map<AnyCompiled, number>();
  readonly #overruled = new Map<AnyCompiled, number>();

  constructor({
    model,
    plan,
    facts,
    writePrecedence,
    types,
    appeared = [],
    bounds = BOUNDS,
  }: BulkStateGiven) {
    this.model = model;
    this.plan = plan;
    this.facts = facts;
    this.writePrecedence = writePrecedence;
    this.touched = new Set(types);
    this.appeared = new Set(appeared);
    this.bounds = bounds;
  }

  /** What each rule did, in the order in which they had their first turn. */
  get filled(): Filled[] {
    return Array.from(this.#filled, ([rule, records]) => {
      const overruled = this.#overruled.get(rule) ?? 0;
      return { rule, records, ...(overruled > 0 ? { overruled } : {}) };
    });
  }

  /** Takes note of how many values a rule didn't write since something else comes first. */
  overrules(rule: AnyCompiled, values: number): void {
    if (values === 0) return;
    this.add(rule, 0);
    this.#overruled.set(rule, (this.#overruled.get(rule) ?? 0) + values);
  }

  add(rule: AnyCompiled, records: number): void {
    this.#filled.set(rule, (this.#filled.get(rule) ?? 0) + records);
  }

  isReached(rule: AnyCompiled): boolean {
    return this.appeared.has(rule.writes.type) || isReachedByTypes(rule, this.touched);
  }

  /** Takes note of what rules wrote. */
  wrote(rules: readonly CompiledRule[], counts: readonly number[]): void {
    rules.forEach((rule, at) => {
      const records = itemAt(counts, at);
      this.add(rule, records);
      if (records > 0) this.touched.add(rule.writes.type);
    });
  }

  /** Goes over the records that the run made or changed, page by page. */
  *pages(
    query: Omit<ChangedQuery, 'after' | 'most'>,
    work: (page: readonly TouchedInRun[]) => Generator<Need, void, Answer>,
  ): Generator<Need, void, Answer> {
    for (let after: string | null = ''; after !== null;) {
      const { touched, next }: SetAnswers['changed'] = yield* askSet<'changed'>({
        kind: 'changed',
        query: { ...query, after, most: this.bounds.page },
      });
      after = next;
      if (touched.length === 0) continue;
      yield* askSet<'page'>({ kind: 'page', touched });
      yield* work(touched);
    }
  }

  /** The same of some records, all together. */
  *changedAmong(
    query: Omit<ChangedQuery, 'after' | 'most'>,
    ids: readonly string[],
  ): Generator<Need, readonly TouchedInRun[], Answer> {
    if (ids.length === 0) return [];
    const { touched } = yield* askSet<'changed'>({
      kind: 'changed',
      query: { ...query, among: ids, after: '', most: ids.length },
    });
    return touched;
  }
}

/** Records as they stand, each read once; of those that the run touched it is known. */
export function rowsOver(touched: Iterable<Touched>): RowsOf {
  const known = new Map<string, Row>();
  for (const { after } of touched) if (after) known.set(recordKey(after), after);
  return function* (type, ids) {
    const wanted = [...ids];
    const set = rowSet(
      type,
      wanted.filter((id) => !known.has(recordKey({ type, id }))),
    );
    if (set.ids.length > 0)
      for (const row of (yield* ask<'records'>({ kind: 'records', set })).rows.values())
        known.set(recordKey(row), row);
    return new Map(
      wanted.flatMap((id) => {
        const key = recordKey({ type, id });
        return known.has(key) ? [[id, valueAt(known, key)]] : [];
      }),
    );
  };
}

/** An error in a rule that reacts undoes the run, by the name of the record. */
export function* reactionRefused(
  { model }: Pick<BulkState, 'model'>,
  rule: CompiledRule,
  { type, id }: RecordRef,
  rowsOf: RowsOf = rowsOver([]),
): Generator<Need, BulkRefused, Answer> {
  const row = (yield* rowsOf(type, [id])).get(id);
  const message = reactionFails(rule, row ? titleOf(model, row) : id);
  return new BulkRefused({ code: 'rule.reaction', index: 0, message, data: { rule: rule.id, id } });
}

/** So many at a time. */
export function* inChunks<T>(all: readonly T[], size: number): Generator<readonly T[]> {
  for (let at = 0; at < all.length; at += size) yield all.slice(at, at + size);
}

import type { LinkRef } from '@/core/model';
import {
  competeForField,
  asksWhich,
  type ReactingCascade,
  type CompiledLinked,
  type CompiledRule,
  isReactingCascade,
  isReacting,
  writtenAt,
} from '@/core/rules';
import { isError, sameValue, firstIn, valueAt } from '@/core/values';
import { type Affected, affectedTargets, causesInOrder, isReached } from '@/core/engine/reach/affected';
import { layersAbove, loopWords } from '@/core/engine/reach/hierarchy-layers';
import { titleOf } from '@/core/engine/edits/apply-edits';
import { childrenOf, depthsOf } from '@/core/engine/reach/hierarchy-descent';
import type { EditProblem } from '@/core/engine/edits/types';
import { runCascade, recipientsOf } from '@/core/engine/cascade/cascade-run';
import { stillFires } from '@/core/engine/cascade/cascade-firing';
import type { CascadeSource } from '@/core/engine/cascade/cascade-input';
import {
  ask,
  type Answer,
  type Answers,
  type Need,
  type RecordSet,
  rowSet,
  type Work,
  type WorkedOut,
  type Write,
} from '@/core/engine/driver/need';
import { type CellRef, recordKey, type Row, sameOutcome } from '@/core/engine/driver/record';
import type { Circle } from './schedule';
import { updateIncrementally } from './incremental';
import { whichOf } from '@/core/engine/driver/ripple';
import type { RunState } from './run-state';
import type { BulkWrites } from './bulk-writes';

/** Most rounds in which rules in a circle go on in one run. */
const MOST_ROUNDS = 100;

function endless(rules: readonly CompiledRule[]): EditProblem {
  const names = [...new Set(rules.map(({ name }) => `“${name}”`))];
  return {
    ...{ code: 'run.circle', index: 0, data: { rules: rules.map(({ id }) => id), most: MOST_ROUNDS } },
    message: `${names.join(', ')} run in a circle that didn’t come to an end in ${MOST_ROUNDS} rounds. Nothing was saved; pause one of them, or change fewer records.`,
  };
}

/** Rules that write fields in a run: what is kept is worked out, what reacts acts. */
export class FieldRules {
  constructor(
    private readonly state: RunState,
    private readonly sets: BulkWrites,
  ) {}

  /**
   * Works out rules that go together: by difference where only children changed, else again from all of them. Answers why the run
   * can't go on, where it can't.
   */
  *workOut(
    stage: readonly CompiledRule[],
    fill: readonly string[],
    /** It was worked out in this run already: nothing can be told by difference. */
    isAgain = false,
  ): Generator<Need, EditProblem | null, Answer> {
    const outranked = stage.find((rule) =>
      this.state.setWriters.some((other) => competeForField(other, rule)),
    );
    if (outranked && this.isReachedAtAll(outranked, fill)) return this.sets.tooManyInTurn(outranked);
    const many = this.state.many.length > 0 ? stage.filter((rule) => this.sets.readsMany(rule)) : [];
    if (many.some(isReactingCascade)) return this.sets.tooManyInTurn(firstIn(many));
    if (many.length > 0) {
      const problem = yield* this.sets.fillMany(many);
      if (problem) return problem;
    }
    const rules = stage.filter((rule) => !many.includes(rule) && this.isReachedAtAll(rule, fill));
    if (rules.length === 0) return null;
    // Rules of one stage go over one link, so their targets are of one type.
    const { type } = firstIn(rules).writes;
    const isFilled = rules.some((rule) => fill.includes(rule.id));
    const everything = isFilled ? yield* ask<'everything'>({ kind: 'everything', type }) : null;
    // Of a small family most rules have nothing to fill.
    if (everything?.ids.length === 0 && !rules.some((rule) => isReached(rule, this.state.touched)))
      return null;
    const due: Wanted[] = [];
    for (const rule of rules) {
      const isFilled = fill.includes(rule.id);
      let affected = yield* this.targetsOf(rule);
      if (this.state.paces.isDeferred(rule) && !isFilled) {
        const paced = yield* this.state.paces.of(rule, affected, this.state.touched);
        if (paced.loop.length > 0) return yield* this.loopProblem(rule, paced.loop);
        affected = paced.affected;
      }
      due.push({ rule, affected, all: isFilled ? everything : null });
    }
    const [{ rule }] = due as [Wanted];
    if (isReactingCascade(rule)) return yield* this.runCascade(stage.filter(isReactingCascade));
    if (rule.recursion) return yield* this.workOutAllTheWay(firstIn(due), isAgain);
    if (rule.kind === 'keptCascade' && rule.handsDown)
      return yield* this.workOutDownward(rule.handsDown, firstIn(due));
    yield* this.workOutDue(due, isAgain);
    for (const one of due) if (one.rule.kind === 'linked') yield* this.askWhich(one.rule, one);
    return this.state.claimed ?? (yield* this.state.reactionProblem());
  }

  private isReachedAtAll(rule: CompiledRule, fill: readonly string[]): boolean {
    return (
      isReached(rule, this.state.touched) ||
      fill.includes(rule.id) ||
      (this.state.paces.isDeferred(rule) && this.state.paces.asked(rule, this.state.touched).length > 0)
    );
  }

  /** Of links for which several are found a person is asked; where one is chosen or found meanwhile nobody is any more. */
  private *askWhich(rule: CompiledLinked, { affected, all }: Wanted): Generator<Need, void, Answer> {
    if (!asksWhich(rule)) return;
    const { type } = rule.writes;
    const ids = [...affected.targets.keys(), ...(all?.ids ?? [])];
    if (ids.length === 0) return;
    this.state.needs += 1;
    const found: Answers['candidates'] = yield* ask<'candidates'>({
      kind: 'candidates',
      rule,
      targets: rowSet(type, ids),
    });
    for (const id of new Set(ids)) {
      const candidates = found.get(id);
      if (!candidates) {
        this.state.withdrawn.push({ rule: rule.id, source: id });
        continue;
      }
      const causes = affected.targets.get(id) ?? [];
      this.state.proposals.push(
        whichOf(rule, id, candidates, { causes, wave: this.state.waveAfter(causes) }),
      );
    }
  }

  /** What a rule cascades at creation or on change: all its fields are worked out before one of them is written. */
  private *runCascade(parts: readonly ReactingCascade[]): Generator<Need, EditProblem | null, Answer> {
    const found = yield* this.cascadeOutcome(parts);
    if ('many' in found) return yield* this.sets.bulkCascade(parts, found.many);
    yield* this.state.keep(found.changed, found.causes);
    return yield* this.state.reactionProblem();
  }

  /** The same before it is written. */
  private *cascadeOutcome(
    parts: readonly ReactingCascade[],
    acted?: Set<string>,
  ): Generator<Need, Due | { readonly many: ReadonlyMap<string, CascadeSource> }, Answer> {
    const [first] = parts as [ReactingCascade];
    const changed: WorkedOut[] = [];
    const causes = new Map<CompiledRule, Affected['targets']>();
    if (this.state.writePrecedence.isSuppressed(first.id)) return { changed, causes };
    const rowsOf = (type: string, ids: Iterable<string>) => this.state.rowsOf(type, ids);
    const { model, touched, facts } = this.state;
    const of = { model, touched, rowsOf, facts, ...(acted ? { acted } : {}) };
    const found = yield* recipientsOf({ ...of, rule: first }, (row) =>
      this.state.writePrecedence.isRestored(row),
    );
    if ('many' in found) return found;
    for (const rule of parts) {
      this.state.needs += 1;
      const handed = yield* runCascade({ ...of, rule }, found.recipients, this.state.writePrecedence);
      if (handed.failed) this.state.failed = { rule, id: handed.failed.id };
      changed.push(...handed.changed);
      causes.set(rule, handed.causes);
      this.state.writePrecedence.overruled.push(...handed.overruled);
      this.state.outside.push(...handed.outside.map((id) => ({ ...rule.writes, id, rule: rule.id })));
    }
    for (const id of found.acting) acted?.add(id);
    this.state.worked += changed.length;
    return { changed, causes };
  }

  /**
   * Rules in a circle: what is kept is worked out, then all that react and are due act together on what they see; and again, until nothing
   * follows. Each that reacts compares with what was before the run, and acts at most once for each record.
   */
  *settle({ kept, reacting }: Circle, fill: readonly string[]): Generator<Need, EditProblem | null, Answer> {
    const acted = new Map<CompiledRule, Set<string>>();
    const rows = new LastRows();
    for (let round = 1; ; round += 1) {
      if (round > MOST_ROUNDS) return endless([...kept, ...reacting].flat());
      for (const stage of kept) {
        const problem = yield* this.workOut(stage, fill, round > 1);
        if (problem) return problem;
      }
      const due: Due[] = [];
      for (const stage of reacting) {
        const [first] = stage as [CompiledRule];
        const done = acted.get(first) ?? new Set<string>();
        acted.set(first, done);
        if (!this.isReachedAtAll(first, fill)) continue;
        if (stage.some((rule) => this.sets.readsMany(rule))) return this.sets.tooManyInTurn(first);
        const found = isReactingCascade(first)
          ? yield* this.cascadeOutcome(stage.filter(isReactingCascade), done)
          : yield* this.reactedIn(first, fill, { done, rows });
        if ('many' in found) return this.sets.tooManyInTurn(first);
        due.push(found);
      }
      let written = 0;
      for (const { changed, causes, isRowLater } of due)
        written += (yield* this.state.keep(changed, causes, isRowLater)).length;
      const problem = this.state.claimed ?? (yield* this.state.reactionProblem());
      if (problem) return problem;
      if (written === 0) break;
    }
    yield* this.state.write(rows.writes());
    this.noteLapsed(acted, rows);
    return null;
  }

  /** What a roll-up that reacts would write on records where it hasn't yet. Which row of its table holds is kept at the end. */
  private *reactedIn(
    rule: CompiledRule,
    fill: readonly string[],
    { done, rows }: { readonly done: Set<string>; readonly rows: LastRows },
  ): Generator<Need, Due, Answer> {
    const { type } = rule.writes;
    const isFilled = fill.includes(rule.id);
    const all = isFilled ? yield* ask<'everything'>({ kind: 'everything', type }) : null;
    const affected = yield* this.targetsOf(rule);
    const { changed, causes } = yield* this.workedOut([{ rule, affected, all }], true);
    for (const id of [...affected.targets.keys(), ...(all?.ids ?? [])]) rows.forget(rule, id);
    const due = changed.flatMap((worked): WorkedOut[] => {
      const { id, row, before, after } = worked;
      if (row !== undefined) rows.set(rule, id, row);
      if (done.has(id) || sameOutcome(before, after)) return [];
      if (!isError(after)) done.add(id);
      return [worked];
    });
    return { changed: due, causes, isRowLater: true };
  }

  /** Of what acted, that whose reason doesn't hold any more. */
  private noteLapsed(acted: ReadonlyMap<CompiledRule, ReadonlySet<string>>, rows: LastRows): void {
    for (const [rule, ids] of acted)
      for (const id of ids) {
        const isStanding = isReactingCascade(rule)
          ? stillFires(rule, this.state.touched.get(recordKey({ type: rule.source, id })))
          : rows.stands(rule, id, this.state.touched.get(recordKey({ type: rule.writes.type, id }))?.after);
        const type = isReactingCascade(rule) ? rule.source : rule.writes.type;
        if (!isStanding) this.state.lapsed.push({ rule: rule.id, type, id });
      }
  }

  /** Works a rule out that goes all the way down: parts first, and above them only what follows from a part that changed. */
  private *workOutAllTheWay(
    { rule, affected, all }: Wanted,
    isAgain: boolean,
  ): Generator<Need, EditProblem | null, Answer> {
    const { type, field } = rule.writes;
    const starts = [...affected.targets.keys(), ...(all?.ids ?? [])];
    this.state.needs += 1;
    const { layers, wholesOf, loop } = yield* layersAbove(rule, starts, this.state.touched);
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
      const seen = this.state.outside.length;
      const wanted = { rule, affected: { targets, whole: affected.whole }, all: filled };
      const changed = yield* this.workOutDue([wanted], isAgain);
      for (const id of changed)
        for (const whole of wholesOf.get(id) ?? []) {
          const because = causes.get(whole) ?? [];
          because.push({ type, id, field });
          causes.set(whole, because);
        }
      // What a part that isn't known gives, isn't known of the whole either.
      for (const { id } of this.state.outside.slice(seen)) isOutside.add(id);
      for (const id of layer)
        if (isOutside.has(id)) for (const whole of wholesOf.get(id) ?? []) isOutside.add(whole);
    }
    const known = new Set(this.state.outside.map(({ id }) => id));
    for (const id of isOutside)
      if (!known.has(id)) this.state.outside.push({ ...rule.writes, id, rule: rule.id });
    return null;
  }

  /** Works a rule out that cascades down a self link: a record after the one that it hangs under, and beneath it only what follows. */
  private *workOutDownward(
    link: LinkRef,
    { rule, affected, all }: Wanted,
  ): Generator<Need, EditProblem | null, Answer> {
    const { type, field } = rule.writes;
    const starts = [...new Set([...affected.targets.keys(), ...(all?.ids ?? [])])];
    const depths = yield* depthsOf(link, starts, (of, ids) => this.state.rowsOf(of, ids));
    const waiting = new Map<number, Map<string, CellRef[]>>();
    const wait = (depth: number, id: string, because: readonly CellRef[]) => {
      const level = waiting.get(depth) ?? new Map<string, CellRef[]>();
      waiting.set(depth, level.set(id, [...(level.get(id) ?? []), ...because]));
    };
    for (const id of starts) wait(depths.get(id) ?? 0, id, affected.targets.get(id) ?? []);
    let unknown = new Set<string>();
    for (let depth = Math.min(...waiting.keys()); waiting.size > 0; depth += 1) {
      const level = waiting.get(depth) ?? new Map<string, CellRef[]>();
      waiting.delete(depth);
      for (const id of unknown) {
        level.delete(id);
        this.state.outside.push({ ...rule.writes, id, rule: rule.id });
      }
      const targets = new Map([...level].map(([id, causes]) => [id, causesInOrder(causes)]));
      const seen = this.state.outside.length - unknown.size;
      const wanted = { rule, affected: { targets, whole: affected.whole }, all: null };
      const changed = targets.size > 0 ? yield* this.workOutDue([wanted], true) : [];
      // What isn't known of a record, isn't known beneath it either.
      const outside = this.state.outside.slice(seen).map(({ id }) => id);
      const beneath = yield* childrenOf(link, [...changed, ...outside]);
      unknown = new Set([...beneath].filter(([, parent]) => outside.includes(parent)).map(([id]) => id));
      for (const [id, parent] of beneath)
        if (!unknown.has(id)) wait(depth + 1, id, [{ type, id: parent, field }]);
      if (unknown.size > 0 && waiting.size === 0) waiting.set(depth + 1, new Map());
    }
    return this.state.claimed ?? (yield* this.state.reactionProblem());
  }

  private *loopProblem(rule: CompiledRule, loop: readonly string[]): Generator<Need, EditProblem, Answer> {
    const rows = yield* this.state.rowsOf(rule.writes.type, loop);
    const chain = loop.map((id) => (rows.has(id) ? titleOf(this.state.model, valueAt(rows, id)) : id));
    const message = loopWords(this.state.model, rule, chain);
    return { code: 'rule.loop', index: 0, message, data: { chain, rule: rule.id } };
  }

  /** Works rules out for their targets, and writes what differs. Answers the records that it changed. */
  private *workOutDue(
    wanted: readonly Wanted[],
    isAgain: boolean,
  ): Generator<Need, readonly string[], Answer> {
    const { changed, causes } = yield* this.workedOut(wanted, isAgain);
    return yield* this.state.keep(changed, causes);
  }

  /** The same before it is written. */
  private *workedOut(wanted: readonly Wanted[], isAgain: boolean): Generator<Need, Due, Answer> {
    const causes = new Map<CompiledRule, Affected['targets']>();
    const work: Work[] = [];
    const changed: WorkedOut[] = [];
    for (const { rule, affected, all } of wanted) {
      const { type } = rule.writes;
      causes.set(rule, affected.targets);
      const again = new Set(affected.targets.keys());
      if (all) {
        const targets = again.size > 0 ? rowSet(type, [...all.ids, ...again]) : all;
        this.state.worked += targets.ids.length;
        work.push({ rule, targets });
        continue;
      }
      const rowsOf = (type: string, ids: Iterable<string>) => this.state.rowsOf(type, ids);
      if (!isAgain)
        for (const found of yield* updateIncrementally({
          rule,
          affected,
          touched: this.state.touched,
          rowsOf,
        })) {
          again.delete(found.id);
          if (found.worked) changed.push(found.worked);
        }
      this.state.worked += affected.targets.size;
      if (again.size > 0) work.push({ rule, targets: rowSet(type, again) });
    }
    if (work.length > 0) {
      this.state.needs += 1;
      const answer: Answers['workOut'] = yield* ask<'workOut'>({ kind: 'workOut', work });
      this.state.outside.push(
        ...answer.outside.map(({ rule, id }) => ({ ...rule.writes, id, rule: rule.id })),
      );
      changed.push(...answer.changed);
    }
    return { changed, causes };
  }

  /** What is affected, without what is in the bin by now. */
  private *targetsOf(rule: CompiledRule): Generator<Need, Affected, Answer> {
    this.state.needs += 1;
    const affected = yield* affectedTargets(this.state.model, rule, this.state.touched);
    const gone = [...affected.targets.keys()].filter(
      (id) => this.state.touched.get(recordKey({ type: rule.writes.type, id }))?.after?.deleted,
    );
    if (gone.length === 0) return affected;
    const targets = new Map(affected.targets);
    for (const id of gone) targets.delete(id);
    return { targets, whole: affected.whole };
  }
}

/** What rules would write, and from what it follows. */
interface Due {
  readonly changed: readonly WorkedOut[];
  readonly causes: ReadonlyMap<CompiledRule, Affected['targets']>;
  /** Which row of its table holds is kept once the circle has settled. */
  readonly isRowLater?: boolean;
}

/** Which row of their tables holds for roll-ups that react in a circle, and what they wrote; kept once the circle has settled. */
class LastRows {
  readonly #rows = new Map<
    string,
    { readonly rule: CompiledRule; readonly id: string; readonly row: number }
  >();

  set(rule: CompiledRule, id: string, row: number): void {
    this.#rows.set(`${rule.id} ${id}`, { rule, id, row });
  }

  /** It is as it was before the run. */
  forget(rule: CompiledRule, id: string): void {
    this.#rows.delete(`${rule.id} ${id}`);
  }

  writes(): Write[] {
    return [...this.#rows.values()].map(({ rule, id, row }) => ({
      ...{ kind: 'edit', type: rule.writes.type, id, wave: 1, changes: [], events: [] },
      rows: [{ rule: rule.id, field: rule.writes.field, row }],
    }));
  }

  /** Whether a record still has what its rule asks for now. */
  stands(rule: CompiledRule, id: string, now: Row | null | undefined): boolean {
    const last = this.#rows.get(`${rule.id} ${id}`);
    if (!last || !isReacting(rule)) return true;
    const wanted = writtenAt(rule.map, rule.whenNone, last.row);
    return wanted !== undefined && sameValue(now?.values[rule.writes.field] ?? null, wanted);
  }
}

/** A rule with the targets that it is worked out for: those that are affected, or all there are. */
interface Wanted {
  readonly rule: CompiledRule;
  readonly affected: Affected;
  readonly all: RecordSet | null;
}

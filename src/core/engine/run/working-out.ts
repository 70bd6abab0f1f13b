import type { LinkRef } from '@/core/model';
import { type CompiledRule } from '@/core/rules';
import { valueAt } from '@/core/values';
import { type Affected, affectedTargets, causesInOrder } from '@/core/engine/reach/affected';
import { layersAbove, loopWords } from '@/core/engine/reach/hierarchy-layers';
import { titleOf } from '@/core/engine/edits/apply-edits';
import { childrenOf, depthsOf } from '@/core/engine/reach/hierarchy-descent';
import type { EditProblem } from '@/core/engine/edits/types';
import {
  ask,
  type Answer,
  type Answers,
  type Need,
  type RecordSet,
  rowSet,
  type Work,
  type WorkedOut,
} from '@/core/engine/driver/need';
import { type CellRef, recordKey } from '@/core/engine/driver/record';
import { updateIncrementally } from './incremental';
import type { RunState } from './run-state';

/** What rules would write, and from what it follows. */
export interface Due {
  readonly changed: readonly WorkedOut[];
  readonly causes: ReadonlyMap<CompiledRule, Affected['targets']>;
  /** Which row of its table holds is kept once the circle has settled. */
  readonly isRowLater?: boolean;
}

/** A rule with the targets that it is worked out for: those that are affected, or all there are. */
export interface Wanted {
  readonly rule: CompiledRule;
  readonly affected: Affected;
  readonly all: RecordSet | null;
}

/** Works rules out for their targets, and writes what differs: all at once, or level by level up or down a hierarchy. */
export abstract class WorkingOut {
  constructor(protected readonly state: RunState) {}

  /** Works a rule out that goes all the way down: parts first, and above them only what follows from a part that changed. */
  protected *workOutAllTheWay(
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
  protected *workOutDownward(
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

  protected *loopProblem(rule: CompiledRule, loop: readonly string[]): Generator<Need, EditProblem, Answer> {
    const rows = yield* this.state.rowsOf(rule.writes.type, loop);
    const chain = loop.map((id) => (rows.has(id) ? titleOf(this.state.model, valueAt(rows, id)) : id));
    const message = loopWords(this.state.model, rule, chain);
    return { code: 'rule.loop', index: 0, message, data: { chain, rule: rule.id } };
  }

  /** Works rules out for their targets, and writes what differs. Answers the records that it changed. */
  protected *workOutDue(
    wanted: readonly Wanted[],
    isAgain: boolean,
  ): Generator<Need, readonly string[], Answer> {
    const { changed, causes } = yield* this.workedOut(wanted, isAgain);
    return yield* this.state.keep(changed, causes);
  }

  /** The same before it is written. */
  protected *workedOut(wanted: readonly Wanted[], isAgain: boolean): Generator<Need, Due, Answer> {
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
  protected *targetsOf(rule: CompiledRule): Generator<Need, Affected, Answer> {
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

import {
  asksWhich,
  type ReactingCascade,
  type CompiledLinked,
  type KeptCascade,
  type CompiledRule,
  isReactingCascade,
} from '@/core/rules';
import { isError, firstIn } from '@/core/values';
import { type Affected, isReached } from '@/core/engine/reach/affected';
import type { EditProblem } from '@/core/engine/edits/types';
import { runCascade, recipientsOf } from '@/core/engine/cascade/cascade-run';
import { overruledSources } from '@/core/engine/cascade/overruled-sources';
import { goesToMany, stillFires } from '@/core/engine/cascade/cascade-firing';
import type { CascadeSource } from '@/core/engine/cascade/cascade-input';
import { ask, type Answer, type Answers, type Need, rowSet, type WorkedOut } from '@/core/engine/driver/need';
import { recordKey, sameOutcome } from '@/core/engine/driver/record';
import type { Circle } from './schedule';
import { whichOf } from '@/core/engine/driver/ripple';
import type { RunState } from './run-state';
import { type Due, type Wanted, WorkingOut } from './working-out';
import { LastRows } from './last-rows';
import type { BulkWrites } from './bulk-writes';

/** Most rounds in which rules in a circle go on in one run. */
export const MOST_ROUNDS = 100;

export function endless(rules: readonly CompiledRule[]): EditProblem {
  const names = [...new Set(rules.map(({ name }) => `“${name}”`))];
  return {
    ...{ code: 'run.circle', index: 0, data: { rules: rules.map(({ id }) => id), most: MOST_ROUNDS } },
    message: `${names.join(', ')} run in a circle that didn’t come to an end in ${MOST_ROUNDS} rounds. Nothing was saved; pause one of them, or change fewer records.`,
  };
}

/** Rules that write fields in a run: what is kept is worked out, what reacts acts. */
export class FieldRules extends WorkingOut {
  /** In the circle that was gone round last: on which records each rule that reacts had acted before the last round. */
  acted: ReadonlyMap<string, ReadonlySet<string>> = new Map();

  constructor(
    state: RunState,
    private readonly sets: BulkWrites,
  ) {
    super(state);
  }

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
    const many = this.state.many.length > 0 ? stage.filter((rule) => this.sets.readsMany(rule)) : [];
    // Of what reacts by precedence a run over many tells on which records it wrote.
    const isLeft = (rule: CompiledRule) =>
      isReactingCascade(rule) || this.state.leaving?.hasRivals(rule) === true;
    if (many.some(isLeft)) return this.sets.tooManyInTurn(firstIn(many));
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
      if (this.state.leaving && affected.targets.size > this.state.leaving.mostKeptByRow)
        return this.sets.tooManyInTurn(rule);
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
    for (const one of due) {
      if (one.rule.kind === 'linked') yield* this.askWhich(one.rule, one);
      if (one.rule.kind === 'keptCascade') yield* this.noteOverruled(one.rule, one.affected.targets);
    }
    return this.state.claimed ?? (yield* this.state.reactionProblem());
  }

  private isReachedAtAll(rule: CompiledRule, fill: readonly string[]): boolean {
    return (
      isReached(rule, this.state.touched) ||
      fill.includes(rule.id) ||
      (this.state.paces.isDeferred(rule) && this.state.paces.asked(rule, this.state.touched).length > 0)
    );
  }

  /** Of several that cascade to one, kept in step, those that the run changed and that don't come first. */
  private *noteOverruled(rule: KeptCascade, targets: Affected['targets']): Generator<Need, void, Answer> {
    const { several } = rule;
    if (!several || targets.size === 0) return;
    const { model, touched, writePrecedence } = this.state;
    const rowsOf = (type: string, ids: Iterable<string>) => this.state.rowsOf(type, ids);
    const found = yield* overruledSources({ model, rule: { ...rule, several }, touched, rowsOf }, targets);
    writePrecedence.overrules(rule, found);
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
    if ('many' in found) {
      const rule = firstIn(parts);
      const isOneSet = goesToMany(rule) && this.state.leaving?.hasRivals(rule) !== true;
      return isOneSet ? yield* this.sets.bulkCascade(parts, found.many) : this.sets.tooManyInTurn(rule);
    }
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
    const { leaving } = this.state;
    const of = {
      ...{ model, touched, rowsOf, facts, ...(acted ? { acted } : {}) },
      ...(leaving ? { mostByRow: leaving.mostByRow, isLeavingMany: true } : {}),
    };
    const found = yield* recipientsOf({ ...of, rule: first });
    if ('many' in found) return found;
    for (const rule of parts) {
      this.state.needs += 1;
      const handed = yield* runCascade({ ...of, rule }, found.recipients, this.state.writePrecedence);
      if (handed.failed !== null) this.state.fails(rule, handed.failed);
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
      // Where the round is left to a run over many, what acted in it hasn’t yet.
      this.acted = actedById(acted);
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
}

/** Two versions of a rule that run beside each other are one here: each has records of its own. */
function actedById(acted: ReadonlyMap<CompiledRule, ReadonlySet<string>>): Map<string, Set<string>> {
  const found = new Map<string, Set<string>>();
  for (const [rule, ids] of acted) found.set(rule.id, new Set([...(found.get(rule.id) ?? []), ...ids]));
  return found;
}

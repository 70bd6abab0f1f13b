import { type CompiledRule, isReacting, isReactingCascade, writtenAt } from '@/core/rules';
import { firstIn, isError } from '@/core/values';
import {
  ask,
  type Answer,
  type Answers,
  askSet,
  type Need,
  rowSet,
  type WorkedOut,
} from '@/core/engine/driver/need';
import { sameOutcome } from '@/core/engine/driver/record';
import { endless, MOST_ROUNDS } from '@/core/engine/run/field-rules';
import { LastRows } from '@/core/engine/run/last-rows';
import type { Circle } from '@/core/engine/run/schedule';
import { BulkCascades, type Handed, knowRows, writeInChunks } from './bulk-cascade';
import { BulkRefused, type BulkState, inChunks, reactionRefused } from './bulk-state';
import { isReachedByTypes } from './reached-types';

/**
 * What rules in a circle come to after a run over many records: in each round what is kept is filled, then all that react and are due act together,
 * until nothing follows. The same as `FieldRules.settle`, a page of records at a time.
 */
export class BulkCircle {
  readonly #rows = new LastRows();
  readonly #acted = new Map<CompiledRule, Set<string>>();
  readonly #cascades: BulkCascades;
  readonly #wrote = new Map<CompiledRule, number>();
  /** Types that were written since a rule was looked at last; all at first. */
  readonly #since = new Map<CompiledRule, Set<string>>();

  constructor(
    private readonly state: BulkState,
    private readonly circle: Circle,
    /** On which records rules acted in this run already, by their ids. */
    acted: ReadonlyMap<string, ReadonlySet<string>>,
  ) {
    this.#cascades = new BulkCascades(state);
    for (const [first] of circle.reacting as readonly (readonly [CompiledRule])[])
      this.#acted.set(first, new Set(acted.get(first.id)));
  }

  *settle(): Generator<Need, void, Answer> {
    const { kept, reacting } = this.circle;
    const rules = [...kept, ...reacting].flat();
    if (!rules.some((rule) => this.state.isReached(rule))) return;
    for (let round = 1; ; round += 1) {
      if (round > MOST_ROUNDS) throw new BulkRefused(endless(rules));
      for (const stage of kept) yield* this.keep(stage);
      const due: { readonly rule: CompiledRule; readonly handed: readonly Handed[] }[] = [];
      for (const stage of reacting) {
        const first = firstIn(stage);
        if (!this.isToBeSeen(first)) continue;
        due.push({ rule: first, handed: yield* this.reacted(stage) });
      }
      let written = 0;
      for (const { rule, handed } of due) written += yield* this.write(rule, handed);
      if (written === 0) break;
    }
    for (const chunk of inChunks(this.#rows.writes(), this.state.bounds.page)) {
      yield* knowRows(
        firstIn(chunk).type,
        chunk.map(({ id }) => id),
      );
      yield* ask<'write'>({ kind: 'write', writes: chunk });
    }
    for (const [rule, records] of this.#wrote) this.state.add(rule, records);
  }

  /** Whether something that a rule reads was written since it had its turn. */
  private isToBeSeen(rule: CompiledRule): boolean {
    const since = this.#since.get(rule);
    this.#since.set(rule, new Set());
    return since ? isReachedByTypes(rule, since) : this.state.isReached(rule);
  }

  private wrote(rule: CompiledRule, records: number): void {
    if (records === 0) return;
    const { type } = rule.writes;
    this.state.touched.add(type);
    for (const since of this.#since.values()) since.add(type);
    this.#wrote.set(rule, (this.#wrote.get(rule) ?? 0) + records);
  }

  private *keep(stage: readonly CompiledRule[]): Generator<Need, void, Answer> {
    const rules = stage.filter((rule) => this.isToBeSeen(rule));
    if (rules.length === 0) return;
    const { counts } = yield* askSet<'fill'>({
      ...{ kind: 'fill', rules, targets: { kind: 'all' }, acting: 'onChange', taken: [], tellsTaken: false },
    });
    counts.forEach((records, at) => this.wrote(rules[at]!, records));
  }

  /** What rules that react would write now; nothing is written yet. */
  private *reacted(stage: readonly CompiledRule[]): Generator<Need, readonly Handed[], Answer> {
    const first = firstIn(stage);
    const acted = this.#acted.get(first) ?? new Set<string>();
    const found: Handed[] = [];
    const keep = (handed: readonly Handed[]) => void found.push(...handed);
    if (isReactingCascade(first))
      yield* this.#cascades.cascade(stage.filter(isReactingCascade), { inCircle: { acted, keep } });
    else yield* this.asked(first, acted, keep);
    return found;
  }

  /** Records on which a roll-up that reacts asks for another value than before the run; of those on which it acted already only the row is kept. */
  private *asked(
    rule: CompiledRule,
    acted: Set<string>,
    keep: (handed: readonly Handed[]) => void,
  ): Generator<Need, void, Answer> {
    const { type, field } = rule.writes;
    const all: Answers['everything'] = yield* ask<'everything'>({ kind: 'everything', type });
    for (const ids of inChunks(all.ids, this.state.bounds.page)) {
      yield* askSet<'page'>({ kind: 'page', touched: [] });
      const { changed }: Answers['workOut'] = yield* ask<'workOut'>({
        ...{ kind: 'workOut', work: [{ rule, targets: rowSet(type, ids) }] },
      });
      for (const id of ids) this.#rows.forget(rule, id);
      for (const worked of changed) {
        const { id, row, before, after } = worked;
        if (row !== undefined) this.#rows.set(rule, id, row);
        if (isError(after) && !isError(before)) throw yield* reactionRefused(this.state, rule, { type, id });
        if (acted.has(id) || sameOutcome(before, after)) continue;
        acted.add(id);
        keep([{ worked, causes: [{ type, id, field }] }]);
      }
    }
  }

  private *write(rule: CompiledRule, handed: readonly Handed[]): Generator<Need, number, Answer> {
    const isRollUp = isReacting(rule);
    const entered = isRollUp
      ? new Set(yield* askSet<'entered'>({ kind: 'entered', rule }))
      : new Set<string>();
    const wanted = handed.filter(({ worked }) => !isRollUp || this.mayWrite(worked, entered));
    yield* writeInChunks(this.state, wanted);
    const counts = new Map<CompiledRule, number>();
    for (const { worked } of wanted) counts.set(worked.rule, (counts.get(worked.rule) ?? 0) + 1);
    for (const [one, records] of counts) this.wrote(one, records);
    return wanted.length;
  }

  /** What a person entered stands, and what one wrote that comes first. */
  private mayWrite(worked: WorkedOut, entered: ReadonlySet<string>): boolean {
    const { rule, row } = worked;
    if (entered.has(worked.id)) return false;
    if (!isReacting(rule) || row === undefined || writtenAt(rule.map, rule.whenNone, row) === undefined)
      return false;
    return this.state.writePrecedence.held(worked).after === worked.after;
  }
}

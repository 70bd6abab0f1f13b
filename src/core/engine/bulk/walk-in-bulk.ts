import { firstIn } from '@/core/values';
import {
  asksWhich,
  type CompiledCreate,
  type CompiledRule,
  hasRivals,
  isReacting,
  isReactingCascade,
  isSlower,
  singleLink,
} from '@/core/rules';
import { type Answer, askSet, type Need } from '@/core/engine/driver/need';
import type { Acting, TargetSet } from '@/core/engine/driver/set-need';
import type { EditProblem } from '@/core/engine/edits/types';
import { MOST_ROUNDS } from '@/core/engine/run/field-rules';
import {
  type Circle,
  isCircle,
  isStage,
  quietStepsOf,
  type ScheduleStep,
  scheduleOf,
} from '@/core/engine/run/schedule';
import { BulkCascades } from './bulk-cascade';
import { BulkCircle } from './bulk-circle';
import { bulkCreate } from './bulk-create';
import { BulkRefused, BulkState, type BulkStateGiven, type Filled } from './bulk-state';

export interface BulkInput extends BulkStateGiven {
  /** The step of the schedule with which it begins, where a run went before it; else the first. */
  readonly from?: number;
  /** The type of the records that were written, whose parents its driver knows (`TargetSet`). */
  readonly written?: string;
  /** Rules of a slower pace that have come round. */
  readonly due?: ReadonlySet<string>;
  /** Rules that make records and mean something else since the settled day turned in this run, with what they meant. */
  readonly turned?: ReadonlyMap<string, CompiledCreate>;
  /** A rule that has had its turn in this run already. */
  readonly done?: string;
  /** Every pace comes round at once, as rehearsals show it. */
  readonly isEveryPace?: boolean;
  /** Rules that keep a field alone are worked out: nothing reacts, cascades or makes records. */
  readonly isQuiet?: boolean;
  /** In a circle, where a run stopped within it: on which records each rule has acted. */
  readonly acted?: ReadonlyMap<string, ReadonlySet<string>>;
  /** Rules that are worked out for all their records, whatever was touched and whatever their pace: taken live, or of a model that changed. */
  readonly fill?: Filling;
  /** Acts on records as they stand, as if what it watches had just been filled: all parts of one rule. */
  readonly standing?: string;
  readonly newId: () => string;
}

export interface Filling {
  readonly rules: ReadonlySet<CompiledRule>;
  readonly actingOf: (rule: CompiledRule) => Acting;
  /** Rules that cascade or make records act on what is filled. */
  readonly isActedOn: boolean;
}

export type BulkOutcome =
  | { readonly kind: 'done'; readonly filled: readonly Filled[] }
  | { readonly kind: 'refused'; readonly problems: readonly EditProblem[] };

/**
 * The schedule of a run over so many records that they aren't told one by one: an import, the edit of a list, what follows from a save that reached
 * very many, the day's turn, rules that are taken live. The same steps in the same order as `propagate`; each is carried out over whole sets, or
 * page by page.
 */
export function* walkInBulk(input: BulkInput): Generator<Need, BulkOutcome, Answer> {
  const walk = new BulkWalk(input);
  try {
    yield* walk.run();
    return { kind: 'done', filled: walk.state.filled };
  } catch (error) {
    if (!(error instanceof BulkRefused)) throw error;
    return { kind: 'refused', problems: [error.problem] };
  }
}

class BulkWalk {
  readonly state: BulkState;
  readonly #cascades: BulkCascades;

  constructor(private readonly input: BulkInput) {
    this.state = new BulkState(input);
    this.#cascades = new BulkCascades(this.state);
  }

  *run(): Generator<Need, void, Answer> {
    const { plan } = this.state;
    const { isQuiet, from = 0, fill } = this.input;
    const steps: readonly ScheduleStep[] = isQuiet ? quietStepsOf(plan) : scheduleOf(plan).slice(from);
    for (const [done, step] of steps.entries()) {
      yield* askSet<'turn'>({ kind: 'turn', done, of: steps.length });
      if (isCircle(step)) yield* this.circle(step);
      else if (isStage(step)) yield* this.stage(step);
      else yield* this.make(step);
    }
    const slower = [...(fill?.rules ?? [])].filter(isSlower).map(({ id }) => id);
    if (slower.length > 0) yield* askSet<'settled'>({ kind: 'settled', rules: slower });
  }

  /** Where rules are filled alone nothing else acts. */
  private get isFillingAlone(): boolean {
    return this.input.fill !== undefined && !this.input.fill.isActedOn;
  }

  private *circle(circle: Circle): Generator<Need, void, Answer> {
    const { fill, acted = new Map<string, ReadonlySet<string>>() } = this.input;
    const rules = [...circle.kept, ...circle.reacting].flat();
    if (fill && rules.some((rule) => fill.rules.has(rule))) yield* this.fillCircle(circle);
    if (this.isFillingAlone) return;
    const standing = rules.filter((rule) => rule.id === this.input.standing && mayActOnStanding(rule));
    if (standing.length > 0) yield* this.cascade(standing);
    yield* new BulkCircle(this.state, circle, acted).settle();
  }

  /** What is kept and reads what one that reacts has just written is filled once more; nothing reacts to that. */
  private *fillCircle({ kept, reacting }: Circle): Generator<Need, void, Answer> {
    for (const stage of [...kept, ...reacting])
      if (!isReactingCascade(firstIn(stage))) yield* this.fillStage(stage);
    for (let round = 0; ; round += 1) {
      let written = 0;
      for (const stage of kept) {
        const rules = stage.filter((rule) => this.input.fill?.rules.has(rule));
        if (rules.length > 0) written += yield* this.fill(rules, { kind: 'all' }, 'onNone');
      }
      if (written === 0) return;
      if (round === MOST_ROUNDS) throw new RangeError('What is kept in a circle settles by itself');
    }
  }

  private *make(rule: CompiledCreate): Generator<Need, void, Answer> {
    if (this.isFillingAlone) return;
    const { turned, done, newId } = this.input;
    const from = turned?.get(rule.id);
    const isDue = from !== undefined || this.state.isReached(rule) || this.state.touched.has(rule.makes);
    if (!isDue || rule.id === done) return;
    const made = yield* bulkCreate(this.state, { rule, newId, ...(from ? { from } : {}) });
    // It may have written on both sides whatever it made.
    this.state.touched.add(rule.writes.type).add(rule.makes);
    if (made === 0) return;
    this.state.appeared.add(rule.makes);
    this.state.add(rule, made);
  }

  private *stage(stage: readonly CompiledRule[]): Generator<Need, void, Answer> {
    const parts = stage.filter(isReactingCascade);
    if (parts.length > 0) return yield* this.cascade(stage);
    yield* this.fillStage(stage);
    if (!this.isFillingAlone) yield* this.workOut(stage.filter((rule) => !this.input.fill?.rules.has(rule)));
  }

  private *cascade(stage: readonly CompiledRule[]): Generator<Need, void, Answer> {
    const parts = stage.filter(isReactingCascade);
    const first = firstIn(parts);
    const isStanding = first.id === this.input.standing;
    const isDue = first.id !== this.input.done && parts.some((rule) => this.state.isReached(rule));
    if (this.isFillingAlone || (!isDue && !isStanding)) return;
    const acting = isStanding ? parts.filter(mayActOnStanding) : parts;
    if (acting.length === 0) return;
    this.state.wrote(acting, yield* this.#cascades.cascade(acting, { isStanding }));
  }

  /** Of rules that are filled whatever was touched. */
  private *fillStage(stage: readonly CompiledRule[]): Generator<Need, void, Answer> {
    const { fill } = this.input;
    const rules = stage.filter((rule) => fill?.rules.has(rule));
    if (!fill || rules.length === 0) return;
    const acting = fill.actingOf(rules.find(isReacting) ?? firstIn(rules));
    yield* this.fill(rules, { kind: 'all' }, acting);
  }

  private *workOut(stage: readonly CompiledRule[]): Generator<Need, void, Answer> {
    const { due, isQuiet = false, isEveryPace = false } = this.input;
    const isDeferred = (rule: CompiledRule) => isSlower(rule) && !isEveryPace;
    const reached = stage.filter((rule) => this.state.isReached(rule));
    const sets = [
      { rules: reached.filter((rule) => !isDeferred(rule)), targets: this.targetsOf(reached) },
      ...stage.filter(isDeferred).flatMap((rule) => this.pacedSets(rule, reached.includes(rule))),
    ];
    for (const { rules, targets } of sets) {
      if (rules.length === 0) continue;
      yield* this.fill(rules, targets, isQuiet ? 'onNone' : 'onChange');
      for (const rule of rules)
        if (rule.kind === 'linked' && asksWhich(rule) && !isQuiet)
          yield* askSet<'askWhich'>({ kind: 'askWhich', rule });
    }
    for (const rule of reached.filter(isDeferred))
      if (due?.has(rule.id) !== true)
        yield* askSet<'leave'>({ kind: 'leave', rule, targets: this.targetsOf([rule]) });
  }

  /** What is worked out of a slower rule: where it has come round, and where its request turned yes. */
  private pacedSets(
    rule: CompiledRule,
    isAlsoReached: boolean,
  ): { readonly rules: readonly CompiledRule[]; readonly targets: TargetSet }[] {
    const { due, written } = this.input;
    const { pace, writes } = rule;
    // What it reads was written in this run too: which targets that concerns isn't asked.
    if (due?.has(rule.id))
      return [{ rules: [rule], targets: isAlsoReached ? { kind: 'all' } : { kind: 'due', rule: rule.id } }];
    if (typeof pace === 'string' || pace.kind !== 'onRequest' || pace.field === null) return [];
    if (written !== writes.type) return [];
    return [{ rules: [rule], targets: { kind: 'asking', field: pace.field } }];
  }

  /** Rules that read what is far up a route, or records that rules changed, are worked out for every target. */
  private targetsOf(rules: readonly CompiledRule[]): TargetSet {
    const { written } = this.input;
    const { touched } = this.state;
    const [first] = rules;
    const link = first && !first.recursion ? singleLink(first) : null;
    // Over a link of a type to itself what was written is a target itself, too.
    if (written === undefined || link?.type !== written || first?.writes.type === written)
      return { kind: 'all' };
    const isDirect = rules.every(
      ({ rates, reads }) =>
        (rates === null || !touched.has(rates.type)) &&
        reads.every((read) => read.type === written || !touched.has(read.type)),
    );
    return isDirect ? { kind: 'parents', link: link.link } : { kind: 'all' };
  }

  /** Works rules out for their targets. Answers how many values they wrote. */
  private *fill(
    rules: readonly CompiledRule[],
    targets: TargetSet,
    acting: Acting,
  ): Generator<Need, number, Answer> {
    const rival = rules.find((rule) => isReacting(rule) && hasRivals(this.state.plan.rules, rule));
    const { counts, taken } = yield* askSet<'fill'>({
      ...{ kind: 'fill', rules, targets, acting },
      taken: rival ? this.state.writePrecedence.takenIn(rival) : [],
      tellsTaken: rival !== undefined,
    });
    if (rival) for (const id of taken) this.state.writePrecedence.writes(rival, id);
    this.state.wrote(rules, counts);
    return counts.reduce((sum, count) => sum + count, 0);
  }
}

/** Whether one of a rule's tests says what a field becomes, or that it changes, and what it cascades isn't what was there before. */
export const mayActOnStanding = (rule: CompiledRule): boolean =>
  isReactingCascade(rule) &&
  rule.moment.kind === 'onChange' &&
  rule.moment.tests.some(({ kind }) => kind === 'changed' || kind === 'became') &&
  !(rule.value.kind === 'worked' && rule.value.isBefore);

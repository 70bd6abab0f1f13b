import { firstIn } from '@/core/values';
import type { LinkRef } from '@/core/model';
import type { Plan } from '@/core/plan';
import {
  type AnyCompiled,
  type CompiledCreate,
  type CompiledRule,
  isAskedBy,
  isCreate,
  isReactingCascade,
  isReacting,
  singleLink,
  readsField,
} from '@/core/rules';

/** Rules that lead to one another in a circle, which goes through those that react. */
export interface Circle {
  readonly kept: readonly (readonly CompiledRule[])[];
  readonly reacting: readonly (readonly CompiledRule[])[];
}

/** What has its turn together: rules that write fields, one that makes records, or rules that go round in a circle. */
export type ScheduleStep = readonly CompiledRule[] | CompiledCreate | Circle;

export const isStage = (turn: ScheduleStep): turn is readonly CompiledRule[] => Array.isArray(turn);
export const isCircle = (turn: ScheduleStep): turn is Circle => !isStage(turn) && 'reacting' in turn;

const schedulesOfPlans = new WeakMap<Plan, readonly ScheduleStep[]>();

/** The turns of a run, in their order. */
export function scheduleOf(plan: Plan): readonly ScheduleStep[] {
  let turns = schedulesOfPlans.get(plan);
  if (!turns) schedulesOfPlans.set(plan, (turns = inTurns(plan.turns, plan.circles)));
  return turns;
}

const quietStepsOfPlans = new WeakMap<Plan, readonly (readonly CompiledRule[])[]>();

/**
 * The turns of a run in which nothing reacts, as where an earlier run is undone: rules that keep a field, and roll-ups whose row is kept. What
 * cascades, makes records or fills what is empty stands still, and so nothing goes round.
 */
export function quietStepsOf(plan: Plan): readonly (readonly CompiledRule[])[] {
  let turns = quietStepsOfPlans.get(plan);
  if (!turns) {
    const stages = scheduleOf(plan).flatMap((turn): readonly (readonly CompiledRule[])[] =>
      isStage(turn) ? [turn] : isCircle(turn) ? [...turn.kept, ...turn.reacting] : [],
    );
    const isQuiet = (rule: CompiledRule) =>
      !isReactingCascade(rule) && !(rule.kind === 'linked' && rule.holds === 'whereEmpty');
    turns = stages.map((stage) => stage.filter(isQuiet)).filter((stage) => stage.length > 0);
    quietStepsOfPlans.set(plan, turns);
  }
  return turns;
}

const stagesOfPlans = new WeakMap<Plan, readonly (readonly CompiledRule[])[]>();

/**
 * Rules that can be worked out together: over the same link and nothing else, none reading what another of them writes; and all that one
 * rule cascades. Others stand alone. Rules that make records aren't among them, and of circles nothing is known.
 */
export function stagesOf(plan: Plan): readonly (readonly CompiledRule[])[] {
  let stages = stagesOfPlans.get(plan);
  if (!stages) stagesOfPlans.set(plan, (stages = inStages(plan.rules)));
  return stages;
}

function inTurns(rules: readonly AnyCompiled[], circles: Plan['circles']): ScheduleStep[] {
  const turns: ScheduleStep[] = [];
  let side: CompiledRule[] = [];
  const goOn = () => {
    turns.push(...inStages(side));
    side = [];
  };
  const done = new Set<AnyCompiled>();
  for (const rule of rules) {
    if (done.has(rule)) continue;
    if (isCreate(rule)) {
      goOn();
      turns.push(rule);
      continue;
    }
    const circle = circles.find((one) => one.has(rule));
    if (!circle) {
      side.push(rule);
      continue;
    }
    goOn();
    const within = rules.filter((other): other is CompiledRule => circle.has(other as CompiledRule));
    for (const one of within) done.add(one);
    const isReaction = (one: CompiledRule) => isReactingCascade(one) || isReacting(one);
    turns.push({
      kept: inStages(within.filter((one) => !isReaction(one))),
      reacting: inStages(within.filter(isReaction)),
    });
  }
  goOn();
  return turns;
}

function inStages(rules: readonly CompiledRule[]): CompiledRule[][] {
  const stages: CompiledRule[][] = [];
  for (const rule of rules) {
    const last = stages.at(-1);
    if (
      last &&
      isReactingCascade(rule) &&
      isReactingCascade(firstIn(last)) &&
      isPartOf(firstIn(last), rule)
    ) {
      last.push(rule);
      continue;
    }
    const link = singleLink(rule);
    const isSameLink = link !== null && isOver(rule, link) && last?.every((other) => isOver(other, link));
    const isFree = last?.every((other) => !readsField(rule, other.writes) && !isAskedBy(rule, other.writes));
    if (last && isSameLink && isFree) last.push(rule);
    else stages.push([rule]);
  }
  return stages;
}

/** Whether both are parts of what one version of a rule cascades. */
const isPartOf = (first: CompiledRule, rule: CompiledRule): boolean =>
  first.id === rule.id && first.half?.isOutside === rule.half?.isOutside;

/** Whether a rule is worked out over one link together with others. One version of two that run beside each other stands alone. */
const isOver = (rule: CompiledRule, link: LinkRef): boolean => {
  const own = singleLink(rule);
  return (
    own !== null &&
    !rule.half &&
    !rule.recursion &&
    !isReacting(rule) &&
    own.type === link.type &&
    own.link === link.link
  );
};

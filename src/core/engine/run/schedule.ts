import type { LinkRef } from '@/core/model';
import type { Plan } from '@/core/plan';
import {
  type AnyCompiled,
  type CompiledCreate,
  type CompiledRule,
  isAskedBy,
  isCreate,
  isHandOn,
  isReacting,
  oneLink,
  readsField,
} from '@/core/rules';

/** Rules that lead to one another in a circle, which goes through those that react. */
export interface Circle {
  readonly kept: readonly (readonly CompiledRule[])[];
  readonly reacting: readonly (readonly CompiledRule[])[];
}

/** What has its turn together: rules that write fields, one that makes records, or rules that go round in a circle. */
export type Turn = readonly CompiledRule[] | CompiledCreate | Circle;

export const isStage = (turn: Turn): turn is readonly CompiledRule[] => Array.isArray(turn);
export const isCircle = (turn: Turn): turn is Circle => !isStage(turn) && 'reacting' in turn;

const turnsOfPlans = new WeakMap<Plan, readonly Turn[]>();

/** The turns of a run, in their order. */
export function turnsOf(plan: Plan): readonly Turn[] {
  let turns = turnsOfPlans.get(plan);
  if (!turns) turnsOfPlans.set(plan, (turns = inTurns(plan.turns, plan.circles)));
  return turns;
}

const quietTurnsOfPlans = new WeakMap<Plan, readonly (readonly CompiledRule[])[]>();

/**
 * The turns of a run in which nothing reacts, as where an earlier run is undone: rules that keep a field, and roll-ups whose row is kept. What
 * hands on, makes records or fills what is empty stands still, and so nothing goes round.
 */
export function quietTurnsOf(plan: Plan): readonly (readonly CompiledRule[])[] {
  let turns = quietTurnsOfPlans.get(plan);
  if (!turns) {
    const stages = turnsOf(plan).flatMap((turn): readonly (readonly CompiledRule[])[] =>
      isStage(turn) ? [turn] : isCircle(turn) ? [...turn.kept, ...turn.reacting] : [],
    );
    const isQuiet = (rule: CompiledRule) =>
      !isHandOn(rule) && !(rule.kind === 'linked' && rule.holds === 'whereEmpty');
    turns = stages.map((stage) => stage.filter(isQuiet)).filter((stage) => stage.length > 0);
    quietTurnsOfPlans.set(plan, turns);
  }
  return turns;
}

const stagesOfPlans = new WeakMap<Plan, readonly (readonly CompiledRule[])[]>();

/**
 * Rules that can be worked out together: over the same link and nothing else, none reading what another of them writes; and all that one
 * rule hands on. Others stand alone. Rules that make records aren't among them, and of circles nothing is known.
 */
export function stagesOf(plan: Plan): readonly (readonly CompiledRule[])[] {
  let stages = stagesOfPlans.get(plan);
  if (!stages) stagesOfPlans.set(plan, (stages = inStages(plan.rules)));
  return stages;
}

function inTurns(rules: readonly AnyCompiled[], circles: Plan['circles']): Turn[] {
  const turns: Turn[] = [];
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
    const isReaction = (one: CompiledRule) => isHandOn(one) || isReacting(one);
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
    if (isHandOn(rule) && last && isHandOn(last[0]!) && last[0].id === rule.id) {
      last.push(rule);
      continue;
    }
    const link = oneLink(rule);
    const isSameLink =
      link !== null && !rule.recursion && !isReacting(rule) && last?.every((other) => isOver(other, link));
    const isFree = last?.every((other) => !readsField(rule, other.writes) && !isAskedBy(rule, other.writes));
    if (last && isSameLink && isFree) last.push(rule);
    else stages.push([rule]);
  }
  return stages;
}

const isOver = (rule: CompiledRule, link: LinkRef): boolean => {
  const own = oneLink(rule);
  return (
    own !== null && !rule.recursion && !isReacting(rule) && own.type === link.type && own.link === link.link
  );
};

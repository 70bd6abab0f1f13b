import { grouped } from '@/core/grouped';
import { type Model, readModel } from '@/core/model';
import {
  type AnyCompiled,
  type CompiledCreate,
  type CompiledRule,
  compileBeside,
  type CompiledBeside,
  isCreate,
  isReacting,
  isReactingCascade,
  partsOf,
  precedenceOf,
  type Rule,
  semanticKey,
} from '@/core/rules';
import { compareText, firstIn, shiftDay, valueAt } from '@/core/values';
import { components, type Graph } from './graph';
import {
  follows,
  graphOf,
  halfKey,
  isField,
  isOpen,
  isReadIn,
  nodeKey,
  partKey,
  touchingIn,
} from './plan-graph';
import { CircleWords, datedAdvice, makersProblems, twoWriters } from './plan-problems';
import { type ByNode, keyOf, type Plan, type PlanResult, type RuleProblem } from './planned';

/**
 * Orders rules by what they read and write. Refuses, by name, rules that don't fit the model, two rules that keep one
 * field, and circles that can't settle: those of rules that keep their fields, and those of rules that make records. The order of `rules`
 * doesn't matter.
 */
export function buildPlan(model: Model, rules: readonly Rule[]): PlanResult {
  const problems: RuleProblem[] = [];
  const compiled: AnyCompiled[] = [];
  for (const rule of [...rules].sort((a, b) => compareText(a.id, b.id))) {
    const result = compiledIn(model, rule);
    if (result.ok)
      compiled.push(
        ...result.rules.flatMap((one): readonly AnyCompiled[] => (isCreate(one) ? [one] : partsOf(one))),
      );
    else problems.push(...result.problems.map((problem) => ({ ...problem, rule: rule.id })));
  }
  problems.push(...twoWriters(model, compiled.filter(isField)), ...makersProblems(model, compiled));
  const graph = graphOf(compiled);
  const byNode = grouped(compiled, nodeKey);
  const words = new CircleWords(model, graph, byNode);
  const advice: RuleProblem[] = compiled.flatMap(datedAdvice);
  const circles: string[][] = [];
  const order = components(graph).map((component) => {
    if (!isCircle(component, graph, byNode)) return component;
    const settling = settlingOrder(component, graph, byNode);
    if (!settling.ok) {
      problems.push(...settling.stuck.flatMap((key) => words.refused(key, settling.graph)));
      return component;
    }
    circles.push(settling.order);
    advice.push(...component.map((key) => words.settles(key)));
    return settling.order;
  });
  const refused = new Set(problems.map((problem) => problem.rule));
  const rulesOf = (keys: readonly string[]) =>
    keys.flatMap((key) => valueAt(byNode, key)).filter(({ id }) => !refused.has(id));
  return {
    plan: planOf(
      rulesOf(order.flat()),
      circles.map((keys) => new Set(rulesOf(keys).filter(isField))).filter(goesRound),
    ),
    problems,
    advice: advice.filter(({ rule }) => !refused.has(rule)),
  };
}

const compiledFor = new WeakMap<Model, WeakMap<Rule, CompiledBeside>>();

/** A rule compiled for a model, once: plans are made again and again while only one rule among them changes. */
function compiledIn(model: Model, rule: Rule): CompiledBeside {
  let known = compiledFor.get(model);
  if (!known) compiledFor.set(model, (known = new WeakMap()));
  let compiled = known.get(rule);
  if (!compiled) known.set(rule, (compiled = compileBeside(model, rule)));
  return compiled;
}

/** The rules of a plan that mean something else than in another, as when the day or a selection changed, or that it doesn't have. */
export function changedRules(plan: Plan, before: Plan): CompiledRule[] {
  const meant = new Map(before.rules.map((rule) => [halfKey(rule), semanticKey(rule)]));
  return plan.rules.filter((rule) => meant.get(halfKey(rule)) !== semanticKey(rule));
}

/** Rules that make records and mean something else than in another plan, each with what it meant there: for other records, or with other values. */
export function makersOther(
  plan: Plan,
  before: Plan,
): { readonly rule: CompiledCreate; readonly from: CompiledCreate }[] {
  const meant = new Map(before.turns.filter(isCreate).map((rule) => [rule.id, rule]));
  return plan.turns.filter(isCreate).flatMap((rule) => {
    const from = meant.get(rule.id);
    return from && semanticKey(from) !== semanticKey(rule) ? [{ rule, from }] : [];
  });
}

/**
 * The rules that hang on the settled day: those that read dates relative to it, which more than a year away are other dates, and those
 * that read what these write. None where no day is known.
 */
export function datedIn(model: Model, rules: readonly Rule[]): CompiledRule[] {
  const { settledDay } = model;
  if (settledDay === null) return [];
  const other = shiftDay(settledDay, 400) ?? shiftDay(settledDay, -400);
  const { plan } = buildPlan(model, rules);
  const dated = changedRules(plan, buildPlan(readModel(model, other), rules).plan);
  return [...new Set([...dated, ...dated.flatMap((rule) => downstream(plan, rule))])];
}

/** A plan of rules that stand for themselves: each worked out as if there were no others. */
export const planAlone = (rules: readonly CompiledRule[]): Plan => ({
  ...{ rules, turns: rules, circles: [] },
  ...{ keeper: () => undefined, filler: () => undefined, mayFail: () => false, isRead: isReadIn(rules) },
});

function planOf(turns: readonly AnyCompiled[], circles: Plan['circles']): Plan {
  const rules = turns.filter(isField);
  const keepers = new Map(
    rules.flatMap((rule) => (isOpen(rule) ? [] : [[keyOf(rule.writes), rule] as const])),
  );
  const fillers = new Map(
    rules.flatMap((rule) => (rule.kind === 'linked' ? [[keyOf(rule.writes), rule] as const] : [])),
  );
  const failing = new Set(
    rules.filter((rule) => !isReacting(rule) && !isReactingCascade(rule)).map(({ writes }) => keyOf(writes)),
  );
  return {
    ...{ rules, turns, circles },
    keeper: (ref) => keepers.get(keyOf(ref)),
    filler: (ref) => fillers.get(keyOf(ref)),
    mayFail: (ref) => failing.has(keyOf(ref)),
    isRead: isReadIn(rules),
  };
}

/** The rules that read, directly or through others, what `rule` writes; in the plan's order. */
export function downstream(plan: Plan, rule: CompiledRule): CompiledRule[] {
  const written = new Set([keyOf(rule.writes)]);
  const found = new Set<CompiledRule>();
  // In a circle what comes earlier may read what comes later.
  for (let size = -1; size < found.size;) {
    size = found.size;
    for (const other of plan.rules) {
      const { rates } = other;
      const isReading =
        other.reads.some((read) => written.has(keyOf(read))) ||
        rates?.fields.some((field) => written.has(keyOf({ type: rates.type, field })));
      if (partKey(other) === partKey(rule) || !isReading) continue;
      found.add(other);
      written.add(keyOf(other.writes));
    }
    if (plan.circles.length === 0) break;
  }
  return plan.rules.filter((other) => found.has(other));
}

/** The rules that react, cascade or make records and read what some rules write: they act on what these are filled with, where that is wanted. */
export function reactingTo(plan: Plan, filled: Iterable<CompiledRule>): AnyCompiled[] {
  const written = new Set(Array.from(filled, ({ writes }) => keyOf(writes)));
  const ids = new Set(Array.from(filled, ({ id }) => id));
  const found = plan.turns.filter(
    (rule) =>
      (isCreate(rule) || isReactingCascade(rule) || isReacting(rule)) &&
      !ids.has(rule.id) &&
      rule.reads.some((read) => written.has(keyOf(read))),
  );
  return found.filter((rule, at) => found.findIndex(({ id }) => id === rule.id) === at);
}

/** Which rules feed which: of each its place in the order, and those that read what it writes. Rules of one id, which write several fields, are one. */
export function feedsOf({ turns, circles }: Plan): Feeding[] {
  const ids = [...new Set(turns.map(({ id }) => id))];
  const inCircle = new Set(circles.flatMap((circle) => [...circle].map(({ id }) => id)));
  const touching = touchingIn(turns);
  const fed = new Map(ids.map((id) => [id, new Set<string>()]));
  for (const first of turns)
    for (const rule of touching(first)) if (follows(rule, first)) valueAt(fed, first.id).add(rule.id);
  return ids.map((id, at) => ({
    ...{ id, place: at + 1, isInCircle: inCircle.has(id) },
    feeds: ids.filter((other) => other !== id && valueAt(fed, id).has(other)),
  }));
}

export interface Feeding {
  readonly id: string;
  /** From 1 on: rules have their turns in this order. */
  readonly place: number;
  readonly isInCircle: boolean;
  /** Ids of rules that come after it because of what it writes. */
  readonly feeds: readonly string[];
}

function isCircle(component: readonly string[], graph: Graph, rules: ByNode): boolean {
  const [first] = component as [string];
  if (component.length > 1) return true;
  return valueAt(graph.edges, first).has(first) && !goesAllTheWay(firstIn(valueAt(rules, first)));
}

/** Whether what is left of a circle is one: rules that lead to one another, or one that reads what it writes. */
const goesRound = (rules: ReadonlySet<CompiledRule>): boolean =>
  rules.size > 1 || [...rules].some((rule) => follows(rule, rule));

/** Of its own values a rule that goes all the way one way reads those that are settled before. */
const goesAllTheWay = (rule: AnyCompiled): boolean =>
  !isCreate(rule) && (rule.recursion !== null || (rule.kind === 'keptCascade' && rule.handsDown !== null));

type Settling =
  | { readonly ok: true; readonly order: string[] }
  /** Those that lie on a circle that can't settle, and the graph in which they do. */
  | { readonly ok: false; readonly stuck: readonly string[]; readonly graph: Graph };

/**
 * A circle settles where those of its rules that keep their fields run in none by themselves: these are worked out in order, then all that
 * react and are due, and again, each of these at most once for each record. One that makes records doesn't take part, nor one of a slower
 * pace, whose turn comes another time.
 */
function settlingOrder(component: readonly string[], graph: Graph, rules: ByNode): Settling {
  const isOne = (key: string, test: (rule: AnyCompiled) => boolean) => valueAt(rules, key).some(test);
  const within = (keys: readonly string[]): Graph => ({
    nodes: keys,
    edges: new Map(
      keys.map((key) => [key, new Set([...valueAt(graph.edges, key)].filter((to) => keys.includes(to)))]),
    ),
  });
  if (
    component.some((key) =>
      isOne(key, (rule) => isCreate(rule) || (rule.pace !== 'withTheSave' && !isReactingCascade(rule))),
    )
  )
    return { ok: false, stuck: component, graph };
  const isReaction = (key: string) =>
    isOne(key, (rule) => !isCreate(rule) && (isReactingCascade(rule) || isReacting(rule)));
  const kept = within(component.filter((key) => !isReaction(key)));
  const order = components(kept);
  const stuck = order.filter((keys) => isCircle(keys, kept, rules)).flat();
  if (stuck.length > 0) return { ok: false, stuck, graph: kept };
  const first = (key: string) => Math.min(...valueAt(rules, key).map(precedenceOf));
  const reacting = component.filter(isReaction).sort((a, b) => first(a) - first(b) || compareText(a, b));
  return reacting.length > 0
    ? { ok: true, order: [...order.flat(), ...reacting] }
    : { ok: false, stuck: component, graph };
}

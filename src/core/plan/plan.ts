import { isDated, type Typed } from '@/core/expression';
import { grouped } from '@/core/grouped';
import { fieldIn, type Model, readModel, typeIn } from '@/core/model';
import {
  type AnyCompiled,
  competeForField,
  type CompiledCreate,
  type CompiledRule,
  compileRule,
  executionModesOf,
  type FieldRef,
  isAskedBy,
  isClaiming,
  isCreate,
  isReacting,
  isReactingCascade,
  partsOf,
  precedenceOf,
  type Read,
  readsField,
  type Rule,
  semanticKey,
} from '@/core/rules';
import {
  certain,
  compareText,
  firstIn,
  itemAt,
  type Problem,
  type ProblemCode,
  shiftDay,
  valueAt,
} from '@/core/values';
import { cannotBothCascade, cannotBothHold } from './cannot-both';
import { circleThrough, components, type Graph } from './graph';

/** The rules that take part in runs, in an order in which each comes after all that it reads. */
export interface Plan {
  /** Those that write fields of records that are there. */
  readonly rules: readonly CompiledRule[];
  /** The same with those that make records. */
  readonly turns: readonly AnyCompiled[];
  /**
   * Rules that lead to one another in a circle which goes through one that reacts: a run goes round until nothing follows. Of each circle those
   * that keep their fields come first, then those that react; in `rules` they stand side by side.
   */
  readonly circles: readonly ReadonlySet<CompiledRule>[];
  /** The rule that keeps a field on every record, if one does; what a rule only reacts into, or claims on some, is open to people. */
  keeper(ref: FieldRef): CompiledRule | undefined;
  /** Whether a rule keeps a field or claims it on some records: it may be in error there. */
  mayFail(ref: FieldRef): boolean;
  /** Whether a rule that writes fields reads a field, or is asked by it to be worked out now. */
  isRead(ref: FieldRef): boolean;
}

/** A finding about one rule (or, for circles and two writers, about each rule that takes part). */
export interface RuleProblem extends Problem {
  readonly rule: string;
}

export interface PlanResult {
  readonly plan: Plan;
  /** When there are any, the rules that they name are left out of the plan. */
  readonly problems: readonly RuleProblem[];
  /** What may stand, but is better known. */
  readonly advice: readonly RuleProblem[];
}

const keyOf = ({ type, field }: FieldRef): string => `${type}.${field}`;

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
    if (result.ok) compiled.push(...(isCreate(result.rule) ? [result.rule] : partsOf(result.rule)));
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
      circles.map((keys) => new Set(rulesOf(keys).filter(isField))).filter(({ size }) => size > 1),
    ),
    problems,
    advice: advice.filter(({ rule }) => !refused.has(rule)),
  };
}

const compiledFor = new WeakMap<Model, WeakMap<Rule, ReturnType<typeof compileRule>>>();

/** A rule compiled for a model, once: plans are made again and again while only one rule among them changes. */
function compiledIn(model: Model, rule: Rule): ReturnType<typeof compileRule> {
  let known = compiledFor.get(model);
  if (!known) compiledFor.set(model, (known = new WeakMap()));
  let compiled = known.get(rule);
  if (!compiled) known.set(rule, (compiled = compileRule(model, rule)));
  return compiled;
}

/** The rules of a plan that mean something else than in another, as when the day or a selection changed, or that it doesn't have. */
export function changedRules(plan: Plan, before: Plan): CompiledRule[] {
  const meant = new Map(before.rules.map((rule) => [partKey(rule), semanticKey(rule)]));
  return plan.rules.filter((rule) => meant.get(partKey(rule)) !== semanticKey(rule));
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

/** What has its turn at once: a field of a rule, or all that a rule cascades at creation or on change. */
const nodeKey = (rule: AnyCompiled): string =>
  isReactingCascade(rule) || isCreate(rule) ? rule.id : partKey(rule);

/** A rule and the field of it that is meant: ids have no blanks. */
const partKey = ({ id, writes }: AnyCompiled): string => `${id} ${writes.field}`;

/** Whether people may enter a rule's field, wherever nothing claims it at the moment. */
const isOpen = (rule: CompiledRule): boolean =>
  isReacting(rule) || isReactingCascade(rule) || rule.kind === 'linked' || isClaiming(rule);

const isField = (rule: AnyCompiled): rule is CompiledRule => !isCreate(rule);

/** A plan of rules that stand for themselves: each worked out as if there were no others. */
export const planAlone = (rules: readonly CompiledRule[]): Plan => ({
  ...{ rules, turns: rules, circles: [] },
  ...{ keeper: () => undefined, mayFail: () => false, isRead: isReadIn(rules) },
});

/** All fields that rules read or are asked by, gathered when it is first asked. */
function isReadIn(rules: readonly CompiledRule[]): Plan['isRead'] {
  let read: ReadonlySet<string> | null = null;
  return (ref) => (read ??= new Set(rules.flatMap(fieldsRead).map(keyOf))).has(keyOf(ref));
}

const fieldsRead = ({ reads, among, rates, pace, writes: { type } }: CompiledRule): FieldRef[] => [
  ...reads,
  ...(among?.reads ?? []),
  ...(rates?.fields.map((field) => ({ type: rates.type, field })) ?? []),
  ...(typeof pace !== 'string' && pace.kind === 'onRequest' && pace.field !== null
    ? [{ type, field: pace.field }]
    : []),
];

function planOf(turns: readonly AnyCompiled[], circles: Plan['circles']): Plan {
  const rules = turns.filter(isField);
  const keepers = new Map(
    rules.flatMap((rule) => (isOpen(rule) ? [] : [[keyOf(rule.writes), rule] as const])),
  );
  const failing = new Set(
    rules.filter((rule) => !isReacting(rule) && !isReactingCascade(rule)).map(({ writes }) => keyOf(writes)),
  );
  return {
    ...{ rules, turns, circles },
    keeper: (ref) => keepers.get(keyOf(ref)),
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
      const isReading =
        other.reads.some((read) => written.has(keyOf(read))) ||
        other.rates?.fields.some((field) => written.has(keyOf({ type: certain(other.rates).type, field })));
      if (partKey(other) === partKey(rule) || !isReading) continue;
      found.add(other);
      written.add(keyOf(other.writes));
    }
    if (plan.circles.length === 0) break;
  }
  return plan.rules.filter((other) => found.has(other));
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

function graphOf(rules: readonly AnyCompiled[]): Graph {
  const edges = new Map(rules.map((rule) => [nodeKey(rule), new Set<string>()]));
  const touching = touchingIn(rules);
  for (const rule of rules)
    for (const other of touching(rule))
      if (follows(other, rule)) valueAt(edges, nodeKey(rule)).add(nodeKey(other));
  return { nodes: [...edges.keys()], edges };
}

/**
 * The rules that may follow one, in their order: all that touch a type which that writes or makes. Only these are asked whether they do:
 * of hundreds of rules most have nothing to do with each other.
 */
function touchingIn(rules: readonly AnyCompiled[]): (first: AnyCompiled) => readonly AnyCompiled[] {
  const byType = new Map<string, Set<number>>();
  rules.forEach((rule, at) => {
    for (const type of touchedTypes(rule)) {
      const known = byType.get(type);
      if (known) known.add(at);
      else byType.set(type, new Set([at]));
    }
  });
  return (first) => {
    const types = isCreate(first) ? [first.writes.type, first.makes] : [first.writes.type];
    const found = new Set(types.flatMap((type) => [...(byType.get(type) ?? [])]));
    return [...found].sort((a, b) => a - b).map((at) => itemAt(rules, at));
  };
}

const byIdOf = new WeakMap<Plan, ReadonlyMap<string, AnyCompiled>>();

/** Rules by their id; of one that writes several fields a part stands for all. */
export function rulesById(plan: Plan): ReadonlyMap<string, AnyCompiled> {
  let known = byIdOf.get(plan);
  if (!known) byIdOf.set(plan, (known = new Map(plan.turns.map((rule) => [rule.id, rule]))));
  return known;
}

/** Every type of which a rule reads, writes or makes records: what happens to others is of no account to it. */
export const touchedTypes = (rule: AnyCompiled): ReadonlySet<string> =>
  new Set([
    rule.writes.type,
    ...rule.reads.map(({ type }) => type),
    ...(isCreate(rule)
      ? []
      : rule.among
        ? [rule.among.type, ...rule.among.reads.map(({ type }) => type)]
        : []),
    ...(rule.rates ? [rule.rates.type] : []),
    ...(isCreate(rule) ? [rule.makes] : isReactingCascade(rule) ? [rule.source] : []),
  ]);

/** Whether a rule has its turn after another: it reads what that writes, is asked by it, or cascades what a record started with. */
function follows(rule: AnyCompiled, first: AnyCompiled): boolean {
  if (isCreate(first)) return followsMaking(rule, first);
  if (isCreate(rule)) return readsField(rule, first.writes);
  // What a rule that cascades finds in its own fields is what it may change: it doesn't follow from it.
  if (isReactingCascade(rule) && rule.id === first.id) return false;
  // Of two that react into one field the one that comes first has its turn first, whatever either reads of it.
  if (competeForField(rule, first)) return precedenceOf(first) < precedenceOf(rule);
  // Of its own field what is kept in step, or fills a link, reads only what people entered.
  if (rule === first && (isClaiming(rule) || rule.kind === 'linked'))
    return rule.reads.some(
      (read) => keyOf(read) === keyOf(rule.writes) && (read.path.length > 0 || !mayReadItself(rule, read)),
    );
  // Of one field a record starts with a value before it is given another: at creation comes first, whatever either reads of it.
  if (isReactingCascade(rule) && isReactingCascade(first) && rule.moment.kind !== first.moment.kind)
    if (keyOf(rule.writes) === keyOf(first.writes)) return rule.moment.kind === 'onChange';
  return readsField(rule, first.writes) || isAskedBy(rule, first.writes);
}

/** In a pilot a formula or roll-up reads its own field only where it leaves it to people. */
const mayReadItself = ({ kind }: CompiledRule, { isEntered = false }: Read): boolean =>
  (kind !== 'formula' && kind !== 'rollUp') || isEntered;

/**
 * Whether a rule has its turn after one that makes records: it writes on those or reads them, or reads what that writes on the record for
 * which it makes them. At set times or when asked a rule makes nothing because of what another did.
 */
function followsMaking(rule: AnyCompiled, first: CompiledCreate): boolean {
  const { makes, writes, assigned, given } = first;
  if (rule === first) return writes.type === makes && rule.pace === 'withTheSave';
  if (rule.reads.some(({ type }) => type === makes)) return true;
  if (!isCreate(rule) && rule.among?.reads.some(({ type }) => type === makes)) return true;
  if (rule.writes.type === makes && (!isCreate(rule) || rule.pace === 'withTheSave')) return true;
  if (isReactingCascade(rule) && rule.source === makes) return true;
  const returned = isReturning(first) ? assigned.flatMap(({ returnsTo }) => returnsTo ?? []) : [];
  const back = [...returned, ...given.map(({ target }) => target)].map(({ key }) => key);
  return [writes.field, ...back].some((field) => readsField(rule, { type: writes.type, field }));
}

const isReturning = ({ returning }: CompiledCreate): boolean =>
  executionModesOf(returning).some((way) => way !== 'not');

/** What a create rule would write although another rule keeps it, and links that two of them would fill. */
function makersProblems(model: Model, rules: readonly AnyCompiled[]): RuleProblem[] {
  const keepers = new Map(
    rules.filter(isField).flatMap((rule) => (isOpen(rule) ? [] : [[keyOf(rule.writes), rule] as const])),
  );
  const makers = grouped(rules.filter(isCreate), ({ writes }) => keyOf(writes));
  return rules.filter(isCreate).flatMap((rule): RuleProblem[] => {
    const say = (place: string, ref: FieldRef, other: AnyCompiled, advice: string): RuleProblem => ({
      ...{ rule: rule.id, code: 'plan.twoWriters', place, data: { others: [other.id] } },
      message: `${fieldWords(model, ref)} is kept by “${other.name}” already. ${advice}`,
    });
    const found: RuleProblem[] = [];
    rule.definition.assignments.forEach(({ target, isOff }, at) => {
      const ref = { type: rule.makes, field: target };
      const keeper = isOff ? undefined : keepers.get(keyOf(ref));
      if (keeper)
        found.push(say(`assignments.${at}.target`, ref, keeper, 'Leave it out, or pause the other rule.'));
    });
    rule.definition.gives?.forEach(({ target, isOff }, at) => {
      const ref = { type: rule.writes.type, field: target };
      const keeper = isOff ? undefined : keepers.get(keyOf(ref));
      if (keeper)
        found.push(say(`gives.${at}.target`, ref, keeper, 'Leave it out, or pause the other rule.'));
    });
    if (rule.definition.back !== null) {
      const ref = { type: rule.makes, field: rule.definition.back };
      const keeper = keepers.get(keyOf(ref));
      if (keeper) found.push(say('links', ref, keeper, 'Choose another link, or pause the other rule.'));
    }
    if (rule.writes.field !== '') {
      const other =
        keepers.get(keyOf(rule.writes)) ?? valueAt(makers, keyOf(rule.writes)).find((one) => one !== rule);
      if (other)
        found.push(say('links', rule.writes, other, 'Choose another link, or pause the other rule.'));
    }
    if (isReturning(rule))
      for (const { returnsTo } of rule.assigned) {
        const ref = { type: rule.writes.type, field: returnsTo?.key ?? '' };
        const keeper = keepers.get(keyOf(ref));
        if (keeper)
          found.push(say('returning', ref, keeper, 'Then it can’t be handed back. Let changes not go back.'));
      }
    return found;
  });
}

function twoWriters(model: Model, rules: readonly CompiledRule[]): RuleProblem[] {
  const byField = grouped(rules, ({ writes }) => keyOf(writes));
  return rules.flatMap((rule): RuleProblem[] => {
    const others = valueAt(byField, keyOf(rule.writes)).filter(
      (other) => other !== rule && !mayShare(rule, other),
    );
    if (others.length === 0) return [];
    const names = others.map((other) => `“${other.name}”`).join(' and ');
    const data = { others: others.map((other) => other.id) };
    const field = fieldWords(model, rule.writes);
    const message = `${field} is kept by ${names} already. Choose another field, or pause the other rule.`;
    const give = `${field} is also written by ${names}. Say which of them comes first, give them conditions that can’t both hold, or pause the other rule.`;
    return others.every((other) => competeForField(rule, other))
      ? [{ rule: rule.id, code: 'plan.precedence', place: 'precedence', message: give, data }]
      : [{ rule: rule.id, code: 'plan.twoWriters', place: 'target', message, data }];
  });
}

/**
 * A record starts with a value and is given another when something changes: the same field may be cascaded at both moments. At the same
 * moment rules may react into it where one comes first, or where it can be seen that only one of them does.
 */
function mayShare(a: CompiledRule, b: CompiledRule): boolean {
  if (isReactingCascade(a) && isReactingCascade(b) && a.moment.kind !== b.moment.kind) return true;
  if (!competeForField(a, b)) return false;
  if (precedenceOf(a) !== precedenceOf(b)) return true;
  if (isReactingCascade(a) && isReactingCascade(b)) return cannotBothCascade(a, b);
  return cannotBothHold(whereOf(a), whereOf(b));
}

/** On which records of its target's type a rule reacts. */
const whereOf = (rule: CompiledRule): Typed | null =>
  isReactingCascade(rule) ? rule.condition : rule.kind === 'rollUp' ? rule.appliesWhen : null;

const fieldWords = (model: Model, { type, field }: FieldRef): string =>
  `${fieldIn(model, type, field).name} of ${typeIn(model, type).name}`;

/** What is cascaded follows a change of what is watched, not a condition that turns with the day. */
function datedAdvice(rule: AnyCompiled): RuleProblem[] {
  const where = isReactingCascade(rule) && rule.moment.kind === 'onChange' ? rule.moment.where : null;
  if (!where || !isDated(where)) return [];
  return [
    {
      ...{ rule: rule.id, code: 'plan.dated', place: 'moment' },
      message: `The condition turns with the day: “${rule.name}” hands on only when what it watches changes, not on the day on which the condition comes to hold.`,
    },
  ];
}

type ByNode = ReadonlyMap<string, readonly AnyCompiled[]>;

function isCircle(component: readonly string[], graph: Graph, rules: ByNode): boolean {
  const [first] = component as [string];
  if (component.length > 1) return true;
  return valueAt(graph.edges, first).has(first) && !goesAllTheWay(firstIn(valueAt(rules, first)));
}

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

/** What is said of circles. */
class CircleWords {
  constructor(
    private readonly model: Model,
    private readonly graph: Graph,
    private readonly rules: ByNode,
  ) {}

  /** A circle that can't settle. */
  refused(key: string, graph: Graph): RuleProblem {
    return this.say(key, graph, 'plan.circle', 'Change one of them so that none reads what it leads to.');
  }

  /** One through a rule that reacts. */
  settles(key: string): RuleProblem {
    const how =
      'A save goes round until nothing follows: what is kept is worked out, then each that is due acts, at most once for each record.';
    return this.say(key, this.graph, 'plan.settles', how);
  }

  private say(key: string, graph: Graph, code: ProblemCode, advice: string): RuleProblem {
    const path = circleThrough(key, graph).map((step) => firstIn(valueAt(this.rules, step)));
    const steps = path
      .slice(0, -1)
      .map(
        (rule, index) => `“${rule.name}” ${this.does(rule)}, which “${itemAt(path, index + 1).name}” reads`,
      );
    return {
      rule: firstIn(valueAt(this.rules, key)).id,
      code,
      place: 'value',
      message: `These rules run in a circle: ${steps.join('; ')}. ${advice}`,
      data: { circle: path.map((rule) => rule.id) },
    };
  }

  private does(rule: AnyCompiled): string {
    return isCreate(rule)
      ? `makes ${typeIn(this.model, rule.makes).plural}`
      : `writes ${fieldWords(this.model, rule.writes)}`;
  }
}

import { grouped } from '../grouped';
import { fieldIn, type Model, readModel, typeIn } from '../model';
import {
  type AnyCompiled,
  type CompiledCreate,
  type CompiledRule,
  compileRule,
  type FieldRef,
  isAskedBy,
  isCreate,
  isHandOn,
  isReacting,
  meaningKey,
  partsOf,
  readsField,
  type Rule,
  waysOf,
} from '../rules';
import { compareText, type Problem, shiftDay } from '../values';
import { circleThrough, components, type Graph } from './graph';

/** The rules that take part in runs, in an order in which each comes after all that it reads. */
export interface Plan {
  /** Those that write fields of records that are there. */
  readonly rules: readonly CompiledRule[];
  /** The same with those that make records. */
  readonly turns: readonly AnyCompiled[];
  /** The rule that keeps a field on every record, if one does; what a rule only reacts into, or claims on some, is open to people. */
  keeper(ref: FieldRef): CompiledRule | undefined;
}

/** A finding about one rule (or, for circles and two writers, about each rule that takes part). */
export interface RuleProblem extends Problem {
  readonly rule: string;
}

export interface PlanResult {
  readonly plan: Plan;
  /** When there are any, the rules that they name are left out of the plan. */
  readonly problems: readonly RuleProblem[];
}

const keyOf = ({ type, field }: FieldRef): string => `${type}.${field}`;

/**
 * Orders rules by what they read and write. Refuses, by name, rules that don't fit the model, two rules that keep one
 * field, and circles. The order of `rules` doesn't matter.
 */
export function buildPlan(model: Model, rules: readonly Rule[]): PlanResult {
  const problems: RuleProblem[] = [];
  const compiled: AnyCompiled[] = [];
  for (const rule of [...rules].sort((a, b) => compareText(a.id, b.id))) {
    const result = compileRule(model, rule);
    if (result.ok) compiled.push(...(isCreate(result.rule) ? [result.rule] : partsOf(result.rule)));
    else problems.push(...result.problems.map((problem) => ({ ...problem, rule: rule.id })));
  }
  problems.push(...twoWriters(model, compiled.filter(isField)), ...makersProblems(model, compiled));
  const graph = graphOf(compiled);
  const byNode = grouped(compiled, nodeKey);
  const order = components(graph);
  problems.push(...order.flatMap((component) => circleProblems(model, component, graph, byNode)));
  const refused = new Set(problems.map((problem) => problem.rule));
  const taking = order
    .flat()
    .flatMap((key) => byNode.get(key)!)
    .filter(({ id }) => !refused.has(id));
  return { plan: planOf(taking), problems };
}

/** The rules of a plan that mean something else than in another, as when the day or a selection changed, or that it doesn't have. */
export function meaningOther(plan: Plan, before: Plan): CompiledRule[] {
  const meant = new Map(before.rules.map((rule) => [partKey(rule), meaningKey(rule)]));
  return plan.rules.filter((rule) => meant.get(partKey(rule)) !== meaningKey(rule));
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
  const dated = meaningOther(plan, buildPlan(readModel(model, other), rules).plan);
  return [...new Set([...dated, ...dated.flatMap((rule) => downstream(plan, rule))])];
}

/** What has its turn at once: a field of a rule, or all that a rule hands on at creation or on change. */
const nodeKey = (rule: AnyCompiled): string => (isHandOn(rule) || isCreate(rule) ? rule.id : partKey(rule));

/** A rule and the field of it that is meant: ids have no blanks. */
const partKey = ({ id, writes }: AnyCompiled): string => `${id} ${writes.field}`;

/** Whether people may enter a rule's field, wherever nothing claims it at the moment. */
const isOpen = (rule: CompiledRule): boolean =>
  isReacting(rule) || isHandOn(rule) || rule.kind === 'inStep' || rule.kind === 'linked';

const isField = (rule: AnyCompiled): rule is CompiledRule => !isCreate(rule);

function planOf(turns: readonly AnyCompiled[]): Plan {
  const rules = turns.filter(isField);
  const keepers = new Map(
    rules.flatMap((rule) => (isOpen(rule) ? [] : [[keyOf(rule.writes), rule] as const])),
  );
  return { rules, turns, keeper: (ref) => keepers.get(keyOf(ref)) };
}

/** The rules that read, directly or through others, what `rule` writes; in the plan's order. */
export function downstream(plan: Plan, rule: CompiledRule): CompiledRule[] {
  const written = new Set([keyOf(rule.writes)]);
  return plan.rules.filter((other) => {
    const isReading =
      other.reads.some((read) => written.has(keyOf(read))) ||
      other.rates?.fields.some((field) => written.has(keyOf({ type: other.rates!.type, field })));
    if (partKey(other) === partKey(rule) || !isReading) return false;
    written.add(keyOf(other.writes));
    return true;
  });
}

function graphOf(rules: readonly AnyCompiled[]): Graph {
  const edges = new Map(rules.map((rule) => [nodeKey(rule), new Set<string>()]));
  for (const rule of rules)
    for (const other of rules) if (follows(other, rule)) edges.get(nodeKey(rule))!.add(nodeKey(other));
  return { nodes: [...edges.keys()], edges };
}

/** Whether a rule has its turn after another: it reads what that writes, is asked by it, or hands on what a record started with. */
function follows(rule: AnyCompiled, first: AnyCompiled): boolean {
  if (isCreate(first)) return followsMaking(rule, first);
  if (isCreate(rule)) return readsField(rule, first.writes);
  // What a rule that hands on finds in its own fields is what it may change: it doesn't follow from it.
  if (isHandOn(rule) && rule.id === first.id) return false;
  // Of its own field what is kept in step, or fills a link, reads only what people entered.
  if (rule === first && (rule.kind === 'inStep' || rule.kind === 'linked'))
    return rule.reads.some((read) => read.path.length > 0 && keyOf(read) === keyOf(rule.writes));
  // Of one field a record starts with a value before it is given another: at creation comes first, whatever either reads of it.
  if (isHandOn(rule) && isHandOn(first) && rule.moment.kind !== first.moment.kind)
    if (keyOf(rule.writes) === keyOf(first.writes)) return rule.moment.kind === 'onChange';
  return readsField(rule, first.writes) || isAskedBy(rule, first.writes);
}

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
  if (isHandOn(rule) && rule.source === makes) return true;
  const returned = isReturning(first) ? assigned.flatMap(({ returnsTo }) => returnsTo ?? []) : [];
  const back = [...returned, ...given.map(({ target }) => target)].map(({ key }) => key);
  return [writes.field, ...back].some((field) => readsField(rule, { type: writes.type, field }));
}

const isReturning = ({ returning }: CompiledCreate): boolean =>
  waysOf(returning).some((way) => way !== 'not');

/** What a create rule would write although another rule keeps it, and links that two of them would fill. */
function makersProblems(model: Model, rules: readonly AnyCompiled[]): RuleProblem[] {
  const keepers = new Map(
    rules.filter(isField).flatMap((rule) => (isOpen(rule) ? [] : [[keyOf(rule.writes), rule] as const])),
  );
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
        keepers.get(keyOf(rule.writes)) ??
        rules.find((one) => one !== rule && isCreate(one) && keyOf(one.writes) === keyOf(rule.writes));
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
  return rules.flatMap((rule) => {
    const others = rules.filter(
      (other) => other !== rule && keyOf(other.writes) === keyOf(rule.writes) && !mayShare(rule, other),
    );
    if (others.length === 0) return [];
    const names = others.map((other) => `“${other.name}”`).join(' and ');
    const message = `${fieldWords(model, rule.writes)} is kept by ${names} already. Choose another field, or pause the other rule.`;
    return [
      {
        rule: rule.id,
        code: 'plan.twoWriters',
        place: 'target',
        message,
        data: { others: others.map((other) => other.id) },
      },
    ];
  });
}

/** A record starts with a value and is given another when something changes: the same field may be handed on at both moments. */
const mayShare = (a: CompiledRule, b: CompiledRule): boolean =>
  isHandOn(a) && isHandOn(b) && a.moment.kind !== b.moment.kind;

const fieldWords = (model: Model, { type, field }: FieldRef): string =>
  `${fieldIn(model, type, field).name} of ${typeIn(model, type).name}`;

function circleProblems(
  model: Model,
  component: readonly string[],
  graph: Graph,
  rules: ReadonlyMap<string, readonly AnyCompiled[]>,
): RuleProblem[] {
  const [first] = component;
  const one = rules.get(first!)![0]!;
  const isCircle = graph.edges.get(first!)?.has(first!) && (isCreate(one) || !one.recursion);
  if (component.length === 1 && !isCircle) return [];
  return component.map((id) => {
    const path = circleThrough(id, graph).map((step) => rules.get(step)![0]!);
    const steps = path
      .slice(0, -1)
      .map(
        (rule, index) =>
          `“${rule.name}” ${isCreate(rule) ? `makes ${typeIn(model, rule.makes).plural}` : `writes ${fieldWords(model, rule.writes)}`}, which “${path[index + 1]!.name}” reads`,
      );
    const message = `These rules run in a circle: ${steps.join('; ')}. Change one of them so that none reads what it leads to.`;
    return {
      rule: rules.get(id)![0]!.id,
      code: 'plan.circle',
      place: 'value',
      message,
      data: { circle: path.map((rule) => rule.id) },
    };
  });
}

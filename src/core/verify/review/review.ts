import { firstIn } from '@/core/values';
import { article } from '@/core/article';
import type { Expression } from '@/core/expression';
import { arrive, fieldIn, type Model, typeIn } from '@/core/model';
import { buildPlan, type RuleProblem } from '@/core/plan';
import {
  type Assignment,
  type Cascade,
  type ChangeTest,
  compileRule,
  LAST_PRECEDENCE,
  type RollUp,
  type Rule,
  type RuleDefinition,
  targetsOf,
} from '@/core/rules';
import { wordsOf } from '@/core/verify/strength/vary-expression';
import { conditionsOf } from '@/core/verify/explain/conditions-of';
import { constantTruth } from '@/core/verify/strength/condition-equivalence';
import { asOneFormula } from './as-one-formula';
import { slowDates, slowerInputs } from './slowness';
import { unitDropped } from './unit-dropped';
import type { Fix, ReviewFinding, Rewritten } from './finding';

/**
 * What is better looked at in a rule, among the other rules that are live. The rule must fit the model.
 *
 * | finding | where |
 * | --- | --- |
 * | a condition that can't hold, or always does | it tests fields against constants, see `constantTruth` |
 * | an option without a row | a table of options, or of results, leaves what has it as it is |
 * | a flag that nobody clears | a cascade sets a yes/no field to one value when something becomes so, and no rule sets it back |
 * | a record counted as often as it is reached | over a bridge |
 * | a total of sub-totals | what is added up holds what lies beneath it already, and that is added up too |
 * | what it reads is brought up to date more slowly | than itself |
 * | a date relative to today, at a pace slower than a day | |
 * | a unit that is lost | a formula gives so many m³, and writes them as money or as a number without a unit |
 */
export function reviewOf(model: Model, others: readonly Rule[], rule: Rule): ReviewFinding[] {
  const { definition } = rule;
  return [
    ...turningConditions(model, definition),
    ...missingOptions(model, definition),
    ...missingResults(model, rule),
    ...flagsLeft(model, others, definition),
    ...countedTwice(model, others, definition),
    ...slowerInputs(model, others, rule),
    ...slowDates(model, rule),
    ...unitDropped(model, rule),
  ];
}

/** All that is found in a rule among others that are live. */
export interface FoundAmong {
  /** What stands in the way. */
  readonly problems: readonly RuleProblem[];
  /** What is better known. */
  readonly advice: readonly RuleProblem[];
  /** What is better looked at; nothing while something stands in the way. */
  readonly review: readonly ReviewFinding[];
}

export function findingsAmong(model: Model, others: readonly Rule[], rule: Rule): FoundAmong {
  const { problems, advice } = buildPlan(model, [...others, rule]);
  const isIts = ({ rule: of }: RuleProblem) => of === rule.id;
  const own = problems.filter(isIts);
  return {
    problems: own,
    advice: advice.filter(isIts),
    review: own.length > 0 ? [] : reviewOf(model, others, rule),
  };
}

/** How something that stands in the way of a rule among others that are live would be put right, where that is plain. */
export function fixesOf(model: Model, others: readonly Rule[], rule: Rule, problem: RuleProblem): Fix[] {
  const rivals = rivalsIn(others, problem);
  if (problem.code === 'plan.precedence') return [preceding(rivals, rule)].flatMap((fix) => fix ?? []);
  const [rival] = problem.code === 'plan.twoWriters' ? rivals : [];
  const stated = rivals.length === 1 && rival ? asOneFormula(model, rule, rival) : null;
  const paused =
    problem.code === 'plan.twoWriters' || problem.code === 'plan.circle' ? pausing(others, problem) : null;
  return [stated, paused].flatMap((fix) => fix ?? []);
}

function rivalsIn(others: readonly Rule[], { data = {} }: RuleProblem): readonly Rule[] {
  const { others: ids = [] } = data as { readonly others?: readonly string[] };
  return others.filter(({ id }) => ids.includes(id));
}

/** Which of rules that write the same field comes first is said of the rule at hand. */
function preceding(rivals: readonly Rule[], { definition }: Rule): Rewritten | null {
  if (definition.kind !== 'rollUp' && definition.kind !== 'cascade') return null;
  const taken = rivals.flatMap((rival) =>
    'precedence' in rival.definition ? (rival.definition.precedence ?? []) : [],
  );
  const names = rivals.map(({ name }) => `“${name}”`).join(' and ');
  // Ahead of all of them where there is room, else after them.
  if (!taken.includes(1))
    return { label: `Let it come before ${names}`, definition: { ...definition, precedence: 1 } };
  const next = Math.max(...taken) + 1;
  return next > LAST_PRECEDENCE
    ? null
    : { label: `Let it come after ${names}`, definition: { ...definition, precedence: next } };
}

/** Another rule that keeps the same field, or is the next in the circle, gives way. */
function pausing(live: readonly Rule[], { data = {} }: RuleProblem): Fix | null {
  const { others = [], circle = [] } = data as {
    readonly others?: readonly string[];
    readonly circle?: readonly string[];
  };
  const other = [...others, ...circle].flatMap((id) => live.find((rule) => rule.id === id) ?? [])[0];
  return other ? { label: `Pause “${other.name}”`, pauses: other.id } : null;
}

function* turningConditions(model: Model, rule: RuleDefinition): Generator<ReviewFinding> {
  for (const { type, condition, name, put } of conditionsOf(model, rule)) {
    const turn = constantTruth(model, type, condition);
    if (turn === null) continue;
    const words = `“${wordsOf({ model, type }, condition)}”`;
    if (turn === 'always') {
      const fix = { label: 'Leave the condition out', definition: put(null) };
      yield {
        code: 'review.always',
        why: `The condition ${name} holds for every record there may be: ${words}.`,
        fix,
      };
      continue;
    }
    const isAll = condition.kind === 'group' && condition.operator === 'all' && condition.of.length > 1;
    yield {
      code: 'review.never',
      why: `The condition ${name} can’t hold for any record: ${words}.`,
      fix: isAll
        ? { label: 'Ask for any of its tests instead', definition: put({ ...condition, operator: 'any' }) }
        : null,
    };
  }
}

interface Assigned {
  readonly from: string;
  readonly to: string;
  readonly assignments: readonly Assignment[];
  readonly put: (assignments: readonly Assignment[]) => RuleDefinition;
}

function assignedBy(model: Model, rule: RuleDefinition): Assigned | null {
  const put = (assignments: readonly Assignment[]) => ({ ...rule, assignments }) as RuleDefinition;
  if (rule.kind === 'create') return { from: rule.type, to: rule.makes, assignments: rule.assignments, put };
  const to = rule.kind === 'cascade' ? arrive(model, rule.type, rule.route) : undefined;
  return rule.kind === 'cascade' && to !== undefined
    ? { from: rule.type, to, assignments: rule.assignments, put }
    : null;
}

function* missingOptions(model: Model, rule: RuleDefinition): Generator<ReviewFinding> {
  const assigned = assignedBy(model, rule);
  if (!assigned) return;
  for (const [at, one] of assigned.assignments.entries()) {
    const { value } = one;
    if (one.isOff || value.kind !== 'map' || value.otherwise.kind !== 'asItIs') continue;
    const field = fieldIn(model, assigned.from, value.field);
    if (field.type.kind !== 'choice') continue;
    const missing = field.type.options.filter(({ key }) => !value.rows.some(({ from }) => from === key));
    if (missing.length === 0) continue;
    const target = fieldIn(model, assigned.to, one.target);
    const alike = target.type.kind === 'choice' ? target.type.options.map(({ key }) => key) : [];
    const rows = missing.filter(({ key }) => alike.includes(key)).map(({ key }) => ({ from: key, to: key }));
    const names = missing.map(({ name }) => name).join(', ');
    yield {
      code: 'review.options',
      why: `The table for ${target.name} has no row for ${names} of ${field.name}: there ${target.name} stays as it was.`,
      fix:
        rows.length > 0
          ? {
              label: rowsLabel(rows.length),
              definition: assigned.put(
                assigned.assignments.map((other, index) =>
                  index === at ? { ...one, value: { ...value, rows: [...value.rows, ...rows] } } : other,
                ),
              ),
            }
          : null,
    };
  }
}

/** What a yes/no field is set to, where that is a constant. */
function setTo(model: Model, type: string, { target, value, isOff }: Assignment): boolean | null {
  if (isOff || value.kind !== 'expression' || value.expression.kind !== 'constant') return null;
  if (model.field(type, target)?.type.kind !== 'yesNo') return null;
  return value.expression.value === true;
}

/** Results of a roll-up for which a rule that reacts has no row: nothing happens then. */
function* missingResults(model: Model, rule: Rule): Generator<ReviewFinding> {
  const { definition } = rule;
  if (definition.kind !== 'rollUp' || definition.map?.otherwise.kind !== 'asItIs') return;
  const { map } = definition;
  const compiled = compileRule(model, rule);
  if (!compiled.ok || compiled.rule.kind !== 'rollUp' || compiled.rule.resultType.kind !== 'choice') return;
  if (map.rows.some(({ operator }) => operator !== '=')) return;
  const missing = compiled.rule.resultType.options.filter(
    ({ key }) => !map.rows.some(({ than }) => than === key),
  );
  if (missing.length === 0) return;
  const { target } = compiled.rule;
  const alike = target.type.kind === 'choice' ? target.type.options.map(({ key }) => key) : [];
  const rows = missing
    .filter(({ key }) => alike.includes(key))
    .map(({ key }) => ({ operator: '=' as const, than: key, writes: key }));
  yield {
    code: 'review.results',
    why: `The table of results has no row for ${missing.map(({ name }) => name).join(', ')}: then ${target.name} stays as it was.`,
    fix:
      rows.length > 0
        ? {
            label: rowsLabel(rows.length),
            definition: { ...definition, map: { ...map, rows: [...map.rows, ...rows] } },
          }
        : null,
  };
}

const rowsLabel = (count: number): string =>
  count === 1 ? 'Add the row for the same option' : `Add ${count} rows for the same options`;

function* flagsLeft(model: Model, others: readonly Rule[], rule: RuleDefinition): Generator<ReviewFinding> {
  if (rule.kind !== 'cascade' || typeof rule.moment === 'string') return;
  if (!rule.moment.tests.some(({ kind }) => kind === 'became' || kind === 'stoppedBeing')) return;
  const type = arrive(model, rule.type, rule.route);
  if (type === undefined) return;
  const isSetBack = (field: string, to: boolean) =>
    others.some(
      ({ definition }) =>
        targetsOf(model, definition).some((ref) => ref.type === type && ref.field === field) &&
        !(definition.kind === 'cascade' && allSetTo(model, type, definition, field, to)),
    );
  for (const one of rule.assignments) {
    const to = setTo(model, type, one);
    if (to === null || isSetBack(one.target, to)) continue;
    const { name } = fieldIn(model, type, one.target);
    yield {
      code: 'review.flag',
      why: `${name} is set to ${to ? 'yes' : 'no'}, and no rule sets it back: once so it stays, although what made it so is over. Write a rule for when that ends, or keep it in step.`,
      fix: inStepInstead(rule, to),
    };
  }
}

/** A flag that is set where a field becomes something, as one that is kept equal to whether it is so; where that says the same. */
function inStepInstead(rule: Cascade, to: boolean): Rewritten | null {
  const { type, route, condition, moment, assignments, pace } = rule;
  if (typeof moment === 'string' || moment.where !== null || assignments.length !== 1) return null;
  const isBeneath = route.length > 0 && route.every(({ direction }) => direction === 'down');
  if (!isBeneath || rule.isAllTheWay || rule.same) return null;
  const tests = moment.tests.map(standingTest);
  const [only] = tests;
  if (!only || tests.includes(null)) return null;
  const isSo: Expression =
    tests.length === 1 ? only : { kind: 'group', operator: 'any', of: tests as readonly Expression[] };
  const expression: Expression = to ? isSo : { kind: 'group', operator: 'none', of: [isSo] };
  return {
    label: 'Keep it in step instead',
    definition: {
      ...{ kind: 'cascade', type, route, condition, moment: 'inStep', pace },
      assignments: [{ target: firstIn(assignments).target, value: { kind: 'expression', expression } }],
    },
  };
}

/** What a test of a change says of the record as it stands: that it is so, or not; `null` where it says nothing. */
function standingTest(test: ChangeTest): Expression | null {
  if (test.kind !== 'became' && test.kind !== 'stoppedBeing') return null;
  const isIt: Expression = {
    ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: [], field: test.field } },
    right: { kind: 'constant', value: test.value },
  };
  return test.kind === 'became' ? isIt : { kind: 'group', operator: 'none', of: [isIt] };
}

const allSetTo = (
  model: Model,
  type: string,
  { assignments }: Cascade,
  field: string,
  to: boolean,
): boolean =>
  assignments.filter(({ target }) => target === field).every((one) => setTo(model, type, one) === to);

const ADDING: readonly RollUp['aggregate'][] = ['sum', 'average', 'count'];

function* countedTwice(
  model: Model,
  others: readonly Rule[],
  rule: RuleDefinition,
): Generator<ReviewFinding> {
  if (rule.kind !== 'rollUp' || !ADDING.includes(rule.aggregate)) return;
  // What is worked out of the bridge too, as by its quantity, is meant for each of them.
  if (rule.isEveryWay && rule.value?.kind !== 'arithmetic') {
    const { isEveryWay: _each, ...once } = rule;
    yield {
      code: 'review.everyWay',
      why: 'A record that is reached over several bridges counts as often as it is reached.',
      fix: { label: 'Count each record once', definition: once },
    };
  }
  const [step, ...more] = rule.route;
  const { value } = rule;
  if (step?.direction !== 'down' || more.length > 0 || rule.aggregate !== 'sum') return;
  if (value?.kind !== 'field' || value.route.length > 0 || step.type === rule.type) return;
  const keeper = buildPlan(model, others).plan.keeper({ type: step.type, field: value.field });
  const up = keeper?.recursion?.down;
  if (!up || up.type !== step.type || isAsked(rule.condition, up.link)) return;
  const link = fieldIn(model, step.type, up.link);
  const isTop: Expression = {
    ...{ kind: 'presence', operator: 'isEmpty' },
    operand: { kind: 'field', route: [], field: up.link },
  };
  const { name, plural } = typeIn(model, step.type);
  yield {
    code: 'review.subTotals',
    why: `${fieldIn(model, step.type, value.field).name} of ${article(name)} ${name} holds that of the ${plural} beneath it already, by “${keeper.name}”: added up over all of them they count more than once.`,
    fix: {
      label: `Only ${plural} where ${link.name} is empty`,
      definition: {
        ...rule,
        condition: rule.condition ? { kind: 'group', operator: 'all', of: [rule.condition, isTop] } : isTop,
      },
    },
  };
}

/** Whether a condition asks anything of a field of the record itself. */
const isAsked = (condition: Expression | null, field: string): boolean =>
  condition !== null && JSON.stringify(condition).includes(`"field":${JSON.stringify(field)}`);

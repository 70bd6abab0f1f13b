import { resultOffered } from './offers';
import { kindWords } from '@/core/expression';
import { type Field, type Model } from '@/core/model';
import { conversion, parseValue, type Problem, type Value, type ValueType } from '@/core/values';
import { checkRounding, checkTarget, finding } from '@/core/rules/shared/check-target';
import { checkPace } from '@/core/rules/pace';
import { ratesReadBy } from '@/core/rules/shared/rates-read';
import { readsOf, recursionOf } from './sources';
import { aggregateEntry, AGGREGATES, type CompiledRollUp, isAggregate, type RollUp } from './roll-up';
import { reacts, type Rule } from '@/core/rules/rule';
import { type CompiledMap, compileLimits, compileMap } from '@/core/rules/shared/result-pipeline';
import { SourceChecker } from './check-source';
import { checkPerOption, sharesOf, withShares } from './per-option';

/** The parts of the sentence at which a finding may point; those of further records by their number: `also.0.value`. */
export type RollUpPart =
  | 'type'
  | 'target'
  | 'aggregate'
  | 'route'
  | 'value'
  | 'order'
  | 'joining'
  | 'percent'
  | 'condition'
  | 'also'
  | 'together'
  | 'perOption'
  | 'own'
  | 'whenNone'
  | 'rounding'
  | 'limits'
  | 'map'
  | 'appliesWhen'
  | 'precedence'
  | 'pace';

export type CompiledAsRollUp =
  | { readonly ok: true; readonly rule: CompiledRollUp }
  | { readonly ok: false; readonly problems: readonly Problem[] };

/** Most further fields that are taken together. */
const MOST_TOGETHER = 8;

/** Most records of different kinds that one rule brings together, and most steps of a route. */
const MOST_SOURCES = 8;

/** A rule that keeps several fields, as one rule for each of them. */
const apart = (definition: RollUp): RollUp[] =>
  definition.perOption ? sharesOf(definition, definition.perOption) : leadingTogether(definition);

/** One rule for each field that is taken of the record that leads: they lead alike. */
function leadingTogether(definition: RollUp): RollUp[] {
  const { together = [], own: _own, ...bare } = definition;
  return [
    definition,
    ...together.map(({ target, values }): RollUp => ({
      ...{ ...bare, target, value: values[0] ?? null, whenNone: null, rounding: null, limits: null },
      also: (bare.also ?? []).map((source, at) => ({ ...source, value: values[at + 1] ?? null })),
    })),
  ];
}

/** Checks a roll-up, with all fields that it keeps; see `compileOne`. */
export function compileRollUp(model: Model, rule: Rule<RollUp>): CompiledAsRollUp {
  const { definition } = rule;
  const { perOption } = definition;
  const apartProblems = perOption ? checkPerOption(model, definition, perOption) : checkTogether(definition);
  if (perOption && apartProblems.length > 0) return { ok: false, problems: apartProblems };
  const [first, ...others] = apart(definition).map((one) => compileOne(model, { ...rule, definition: one }));
  const problems: Problem[] = first!.ok ? [] : [...first!.problems];
  problems.push(...apartProblems, ...checkFurther(definition));
  const compiled: CompiledRollUp[] = [];
  others.forEach((other, at) => {
    if (other.ok) compiled.push(other.rule);
    else if (first!.ok)
      problems.push(
        ...other.problems.map((problem) => ({
          ...problem,
          place: `${furtherPart(definition)}.${at}.${problem.place ?? ''}`,
        })),
      );
  });
  if (!first!.ok || problems.length > 0) return { ok: false, problems };
  if (perOption && first!.rule.recursion)
    return {
      ok: false,
      problems: [
        finding(
          'perOption',
          'rule.ofItself',
          'A rule that goes all the way down keeps one field. Leave the fields for each option out.',
        ),
      ],
    };
  const whole = { ...first!.rule, definition, together: compiled };
  return { ok: true, rule: perOption ? withShares(model, whole, perOption) : whole };
}

/** The part of a definition in which the further fields stand that it keeps. */
const furtherPart = ({ perOption }: RollUp): 'perOption' | 'together' =>
  perOption ? 'perOption' : 'together';

function checkTogether({ together = [], aggregate, map }: RollUp): Problem[] {
  const problems: Problem[] = [];
  if (together.length > 0 && (!aggregateEntry(aggregate).isOrdered || map))
    problems.push(
      finding(
        'together',
        'rule.together',
        'Only the first and the last take several fields of one record, each as it is. Leave the further fields out.',
      ),
    );
  if (together.length > MOST_TOGETHER)
    problems.push(
      finding('together', 'rule.together', `At most ${MOST_TOGETHER} further fields are taken together.`),
    );
  return problems;
}

/** No field is kept twice. */
function checkFurther(definition: RollUp): Problem[] {
  const further = definition.perOption?.others ?? definition.together ?? [];
  const targets = [definition.target, ...further.map(({ target }) => target)];
  return targets.flatMap((target, at) =>
    targets.indexOf(target) < at
      ? finding(
          `${furtherPart(definition)}.${at - 1}.target`,
          'rule.target',
          'This rule keeps that field already. Choose another.',
        )
      : [],
  );
}

/**
 * Checks a roll-up against the model and types it. Refuses, with one finding for each part of the sentence: types, fields
 * and links that don't exist, a value that the aggregate doesn't take, unlike values together, a result that can't be written into
 * the target.
 */
function compileOne(model: Model, rule: Rule<RollUp>): CompiledAsRollUp {
  const { definition } = rule;
  const parent = model.type(definition.type);
  if (!parent)
    return {
      ok: false,
      problems: [finding('type', 'rule.type', 'Choose the type of record that this rule is on.')],
    };
  if (!isAggregate(definition.aggregate))
    return { ok: false, problems: [unknownAggregate(definition.aggregate)] };
  const problems: Problem[] = [];
  const target = model.field(parent.key, definition.target);
  if (!target)
    problems.push(
      finding('target', 'rule.target', `Choose the field of ${parent.name} that this rule keeps.`),
    );
  problems.push(...checkSources(definition));
  const checker = new SourceChecker(model, definition, parent, problems);
  const sources = [definition, ...(definition.also ?? [])].flatMap(
    (source, at) => checker.source(source, at === 0 ? '' : `also.${at - 1}.`) ?? [],
  );
  const own = {
    adds: checker.own('adds'),
    standsIn: checker.own('standsIn'),
    whenNone: checker.own('whenNone'),
  };
  const valueType = checker.valueType();
  const whenNone = target ? parseValue(target.type, definition.whenNone) : null;
  if (whenNone && !whenNone.ok) problems.push({ ...whenNone.problem, place: 'whenNone' });
  const resultType = resultOffered(definition.aggregate, valueType);
  const mapped = checkMap(definition, resultType, target);
  problems.push(...mapped.problems);
  if (target) problems.push(...checkTarget(target, definition.map ? null : resultType));
  const goal = definition.map ? resultType : (target?.type ?? null);
  for (const [which, field] of [
    ['standsIn', own.standsIn],
    ['whenNone', own.whenNone],
  ] as const)
    if (field && goal && target && !conversion(field.type, goal))
      problems.push(finding('own', 'rule.kinds', cantStand(which, field.type, target, goal)));
  const appliesWhen = checker.appliesWhen();
  const limits = compileLimits(definition.limits, resultType);
  problems.push(
    ...checkRounding(definition.rounding),
    ...limits.problems,
    ...checkJoining(definition),
    ...checkPercent(definition),
  );
  problems.push(...checkPace(model, definition, reacts(definition)));
  if (problems.length > 0 || !target || !resultType || !whenNone?.ok) return { ok: false, problems };
  const compiled = {
    ...{ kind: 'rollUp' as const, id: rule.id, version: rule.version, name: rule.name },
    ...{ definition, aggregate: definition.aggregate },
    ...{ writes: { type: parent.key, field: target.key }, target, resultType, sources, own },
    valueType: definition.aggregate === 'count' ? null : valueType,
    ...{ whenNone: whenNone.value as Value, rounding: definition.rounding },
    ...{ limits: limits.limits, map: mapped.map, appliesWhen, together: [] },
    pace: definition.pace,
  };
  const reads = readsOf(model, compiled);
  const rates = ratesReadBy([appliesWhen, ...sources.flatMap(({ value, condition }) => [value, condition])]);
  const recursion = recursionOf(compiled, reads);
  if (recursion && mapped.map?.otherwise === 'asItIs')
    return { ok: false, problems: [finding('map', 'rule.ofItself', GOES_DOWN)] };
  return { ok: true, rule: { ...compiled, reads, rates, recursion } };
}

const GOES_DOWN =
  'A rule that goes all the way down keeps its field: it can’t leave it as it is. Say what is written otherwise.';

const cantStand = (
  which: 'standsIn' | 'whenNone',
  type: ValueType,
  target: Field,
  goal: ValueType,
): string => {
  const into = goal === target.type ? `written into ${target.name}` : 'taken for the result';
  return `What ${which === 'standsIn' ? 'stands in' : 'stands when none count'} is ${kindWords(type)}, which can’t be ${into} (${kindWords(goal)}). Choose another field.`;
};

/** The map from the result to what is written; nothing to say while the result or the target isn't known. */
function checkMap(
  { map, appliesWhen }: RollUp,
  result: ValueType | null,
  target: Field | undefined,
): { readonly map: CompiledMap | null; readonly problems: readonly Problem[] } {
  if (appliesWhen && map?.otherwise.kind !== 'asItIs')
    return {
      map: null,
      problems: [
        finding(
          'appliesWhen',
          'rule.appliesWhen',
          'Only a rule that may leave its field as it is applies to some records and not to others. Leave the condition out.',
        ),
      ],
    };
  if (!map || !result || !target) return { map: null, problems: [] };
  return compileMap(map, result, target);
}

const unknownAggregate = (name: string): Problem =>
  finding(
    'aggregate',
    'rule.aggregate',
    `“${name}” isn’t an aggregate. Choose one of ${AGGREGATES.map(({ words }) => words).join(', ')}.`,
  );

function checkSources({ also = [] }: RollUp): Problem[] {
  if (also.length < MOST_SOURCES) return [];
  const message = `At most ${MOST_SOURCES} kinds of records go into one rule; found ${also.length + 1}. Make some of them a rule of their own.`;
  return [finding('also', 'rule.also', message)];
}

const MOST_SEPARATOR = 20;

function checkJoining({ aggregate, joining }: RollUp): Problem[] {
  if (aggregate !== 'joined') return [];
  if (!joining)
    return [
      finding('joining', 'rule.joining', 'Say what stands between the texts, such as a comma and a blank.'),
    ];
  const { separator, most } = joining;
  const isCounted =
    most === undefined || most === null || (Number.isInteger(most) && most >= 1 && most <= 1_000);
  if (separator.length <= MOST_SEPARATOR && isCounted) return [];
  const message = `Between texts stand at most ${MOST_SEPARATOR} characters, and 1 to 1,000 texts are shown.`;
  return [finding('joining', 'rule.joining', message)];
}

function checkPercent({ aggregate, percent }: RollUp): Problem[] {
  if (aggregate !== 'percentile') return [];
  if (percent !== undefined && Number.isInteger(percent) && percent >= 1 && percent <= 99) return [];
  const found = percent === undefined ? 'nothing' : String(percent);
  const message = `Under how many in a hundred lie is a whole number of 1 to 99; found ${found}. 90 gives the value that nine in ten don’t exceed.`;
  return [finding('percent', 'rule.aggregate', message)];
}

import { fieldsRead, type Typed, typeCondition, type TypedField, typeFieldRead } from '../expression';
import { type Field, follow, type LinkRef, type Model } from '../model';
import {
  conversion,
  KIND_NAMES,
  parseValue,
  type Problem,
  type Result,
  type Value,
  type ValueType,
} from '../values';
import { aggregateEntry, AGGREGATES, type CompiledRollUp, type RollUp } from './roll-up';
import type { Read, Rule } from './rule';

/** The parts of the sentence at which a finding may point. */
export type RollUpPart =
  'type' | 'target' | 'aggregate' | 'route' | 'value' | 'condition' | 'whenNone' | 'rounding';

const finding = (part: RollUpPart, code: string, message: string): Problem => ({
  code,
  message,
  place: part,
});

export type Compiled =
  | { readonly ok: true; readonly rule: CompiledRollUp }
  | { readonly ok: false; readonly problems: readonly Problem[] };

/**
 * Checks a roll-up against the model and types it. Refuses, with one finding for each part of the sentence: types, fields
 * and links that don't exist, a value that the aggregate doesn't take, a result that can't be written into the target.
 */
export function compileRollUp(model: Model, rule: Rule): Compiled {
  const { definition } = rule;
  const parent = model.type(definition.type);
  if (!parent)
    return {
      ok: false,
      problems: [finding('type', 'rule.type', 'Choose the type of record that this rule is on.')],
    };
  const target = model.field(parent.key, definition.target);
  const link = linkOf(model, definition);
  const value = valueOf(model, definition, link);
  const condition = conditionOf(model, definition, link);
  const whenNone = target ? parseValue(target.type, definition.whenNone) : null;
  const resultType = resultTypeOf(definition, value?.ok ? value.value.type : null);
  const problems = [
    ...(target
      ? []
      : [finding('target', 'rule.target', `Choose the field of ${parent.name} that this rule keeps.`)]),
    ...(link
      ? []
      : [
          finding('route', 'rule.route', `Choose which records beneath ${parent.name} are brought together.`),
        ]),
    ...checkAggregate(definition, value),
    ...(value && !value.ok ? [{ ...value.problem, place: 'value' }] : []),
    ...(condition && !condition.ok
      ? [{ ...condition.problem, place: ['condition', condition.problem.place].filter(Boolean).join('.') }]
      : []),
    ...(whenNone && !whenNone.ok ? [{ ...whenNone.problem, place: 'whenNone' }] : []),
    ...(target ? checkTarget(target, resultType) : []),
    ...checkRounding(definition),
  ];
  if (problems.length > 0 || !target || !link || !resultType || !whenNone?.ok) return { ok: false, problems };
  const typedValue = value?.ok ? value.value : null;
  const typedCondition = condition?.ok ? condition.value : null;
  return {
    ok: true,
    rule: {
      ...{ id: rule.id, version: rule.version, name: rule.name, definition, aggregate: definition.aggregate },
      ...{ writes: { type: parent.key, field: target.key }, target, link, resultType },
      ...{
        value: typedValue,
        condition: typedCondition,
        whenNone: whenNone.value as Value,
        rounding: definition.rounding,
      },
      reads: readsOf(model, link, typedValue, typedCondition),
    },
  };
}

function linkOf(model: Model, { type, route }: RollUp): LinkRef | null {
  const [step] = route;
  if (route.length !== 1 || !step) return null;
  const field = model.field(step.type, step.link);
  return field?.type.kind === 'link' && field.type.target === type
    ? { type: step.type, link: step.link }
    : null;
}

function valueOf(model: Model, definition: RollUp, link: LinkRef | null): Result<TypedField> | null {
  if (!link || !definition.value || definition.aggregate === 'count') return null;
  return typeFieldRead(model, link.type, definition.value) as Result<TypedField>;
}

const conditionOf = (model: Model, definition: RollUp, link: LinkRef | null): Result<Typed> | null =>
  link && definition.condition ? typeCondition(model, link.type, definition.condition) : null;

function resultTypeOf(definition: RollUp, value: ValueType | null): ValueType | null {
  const entry = aggregateEntry(definition.aggregate);
  if (!entry) return null;
  if (entry.kinds.length === 0) return entry.resultType(null);
  return value && entry.kinds.includes(value.kind) ? entry.resultType(value) : null;
}

function checkAggregate({ aggregate, value: written }: RollUp, value: Result<TypedField> | null): Problem[] {
  const entry = aggregateEntry(aggregate);
  if (!entry) {
    const known = AGGREGATES.map((candidate) => candidate.words).join(', ');
    return [
      finding('aggregate', 'rule.aggregate', `“${aggregate}” isn’t an aggregate. Choose one of ${known}.`),
    ];
  }
  if (entry.kinds.length === 0) {
    return written
      ? [finding('value', 'rule.value', 'A count takes no value. Leave it out, or choose another aggregate.')]
      : [];
  }
  if (!written) return [finding('value', 'rule.value', `Choose the field whose ${entry.words} is taken.`)];
  if (value?.ok && !entry.kinds.includes(value.value.type.kind)) {
    const taken = entry.kinds.map((kind) => KIND_NAMES[kind]).join(', ');
    const message = `The ${entry.words} takes ${taken}; this field is ${KIND_NAMES[value.value.type.kind]}. Choose another field or aggregate.`;
    return [finding('value', 'rule.value', message)];
  }
  return [];
}

function checkTarget(target: Field, result: ValueType | null): Problem[] {
  if (target.required)
    return [
      finding(
        'target',
        'rule.target',
        `${target.name} must be entered by people. Choose a field that isn’t required.`,
      ),
    ];
  if (target.unique)
    return [
      finding(
        'target',
        'rule.target',
        `${target.name} is unique, and what a rule works out may come twice. Choose a field that isn’t.`,
      ),
    ];
  if (!result || conversion(result, target.type)) return [];
  const message = `The result is ${nameOf(result)}, which can’t be written into ${target.name} (${nameOf(target.type)}). Choose another field.`;
  return [finding('target', 'rule.kinds', message)];
}

function nameOf(type: ValueType): string {
  if (type.kind === 'money') return `money in ${type.currency}`;
  return type.kind === 'number' && type.unit ? `a number in ${type.unit}` : KIND_NAMES[type.kind];
}

/** At most twelve digits on either side of the point. */
const STEP = /^\d{1,12}(\.\d{1,12})?$/;

function checkRounding({ rounding }: RollUp): Problem[] {
  if (!rounding) return [];
  const { mode, places, step } = rounding;
  const isPlaced = Number.isInteger(places) && places >= 0 && places <= 20;
  if (!['nearest', 'up', 'down'].includes(mode) || !isPlaced)
    return [finding('rounding', 'rule.rounding', 'Round to 0 to 20 places: nearest, up or down.')];
  if (step === undefined || (STEP.test(step) && Number(step) > 0)) return [];
  const message = `A step is a number above 0, such as 0.05 or 50, with at most 12 digits on either side of the point; found “${step}”.`;
  return [finding('rounding', 'rule.rounding', message)];
}

/** Besides the fields of value and condition, a rule reads its link and every link of the routes that it goes up. */
function readsOf(model: Model, link: LinkRef, value: TypedField | null, condition: Typed | null): Read[] {
  const fields = [...(value ? [value] : []), ...(condition ? fieldsRead(condition) : [])];
  const alongRoutes = fields.flatMap((field) =>
    field.route.map((step, index) => {
      const route = field.route.slice(0, index);
      return { type: follow(model, link.type, route)!, field: step, route };
    }),
  );
  const all: Read[] = [
    { type: link.type, field: link.link, route: [] },
    ...fields.map((field) => ({ type: field.owner, field: field.field, route: field.route })),
    ...alongRoutes,
  ];
  const key = (read: Read) => [...read.route, read.field].join('.');
  return all.filter((read, index) => all.findIndex((other) => key(other) === key(read)) === index);
}

import fc from 'fast-check';
import type { Edit, Row } from '@/core/engine';
import type { CompareOperator, Expression } from '@/core/expression';
import {
  type Field,
  type Link,
  type LinkPolicy,
  type Model,
  type OpenLink,
  type Pace,
  readModel,
  type RecordType,
  type Selection,
  type Step,
  stepDown,
  typeIn,
} from '@/core/model';
import { buildPlan } from '@/core/plan';
import {
  type Aggregate,
  aggregateEntry,
  AGGREGATES,
  type Cascade,
  type ChangeTest,
  compileRule,
  type FieldRead,
  type Finding,
  type Formula,
  type LinkRule,
  type OwnValues,
  resultOffered,
  type RollUp,
  type RuleDefinition,
  type RollUpSource,
  type Rule,
  sentenceOf,
} from '@/core/rules';
import { Decimal, placesOf, type Rounding, type Value, type WireValue } from '@/core/values';
import { decimal, gbp, RATES, rowOf, ruleOf, uuid } from './galleries';

/** A model, rules that fit together, records, and saves of some edits each: all that a randomised test runs on. */
export interface Case {
  readonly model: Model;
  readonly rules: readonly Rule[];
  readonly rows: readonly Row[];
  readonly saves: readonly (readonly Edit[])[];
}

/**
 * What a case is made from: plain numbers, read as choices among whatever there is to choose from, so that any of them
 * makes a sound case and the test library can make a failing one smaller.
 */
interface Spec {
  readonly types: readonly (readonly number[])[];
  readonly rules: readonly (readonly number[])[];
  readonly records: readonly (readonly number[])[];
  readonly saves: readonly (readonly (readonly number[])[])[];
}

const MOST_RECORDS = 24;

const numbers = (length: number) => fc.array(fc.nat(999), { minLength: length, maxLength: length });

const anySpec: fc.Arbitrary<Spec> = fc.record({
  types: fc.array(numbers(7), { minLength: 2, maxLength: 4 }),
  rules: fc.array(numbers(28), { minLength: 1, maxLength: 8 }),
  records: fc.array(numbers(12), { minLength: 4, maxLength: MOST_RECORDS }),
  saves: fc.array(fc.array(numbers(14), { minLength: 1, maxLength: 4 }), { minLength: 1, maxLength: 5 }),
});

/** Any case, which prints as sentences, records and edits. */
export const anyCase: fc.Arbitrary<Case> = anySpec.map((spec) => {
  const made = readSpec(spec);
  return Object.defineProperty(made, fc.toStringMethod, {
    value: () => `\n${printCase(made)}`,
    enumerable: false,
  });
});

/** Takes choices one after the other. */
class Choices {
  #at = 0;
  constructor(private readonly numbers: readonly number[]) {}

  number(): number {
    return this.numbers[this.#at++ % this.numbers.length]!;
  }

  one<T>(of: readonly T[]): T {
    return of[this.number() % of.length]!;
  }
}

const STAGES = ['early', 'middle', 'late'].map((key) => ({ key, name: key }));
const POLICIES: readonly LinkPolicy[] = ['refuse', 'clear', 'delete'];

/** Fields that people enter, and fields that are there for rules to keep, on every type. */
const ENTERED: readonly Field[] = [
  { key: 'title', name: 'Title', type: { kind: 'text' }, required: true },
  { key: 'stage', name: 'Stage', type: { kind: 'choice', options: STAGES } },
  { key: 'flag', name: 'Flag', type: { kind: 'yesNo' } },
  { key: 'amount', name: 'Amount', type: { kind: 'money', currency: 'GBP' } },
  { key: 'units', name: 'Units', type: { kind: 'number', scale: 2 } },
  { key: 'day', name: 'Day', type: { kind: 'date' } },
  { key: 'price', name: 'Price', type: { kind: 'anyMoney' } },
  { key: 'seen', name: 'Seen', type: { kind: 'dateTime' } },
];
const KEPT: readonly Field[] = [
  { key: 'keptTotal', name: 'Kept total', type: { kind: 'money', currency: 'GBP' } },
  { key: 'keptMean', name: 'Kept mean', type: { kind: 'number', scale: 3 } },
  { key: 'keptCount', name: 'Kept count', type: { kind: 'number', scale: 0 } },
  { key: 'keptGrade', name: 'Kept grade', type: { kind: 'rating', lowest: 0, highest: 3 } },
  { key: 'keptDay', name: 'Kept day', type: { kind: 'date' } },
  { key: 'keptFlag', name: 'Kept flag', type: { kind: 'yesNo' } },
  { key: 'keptStage', name: 'Kept stage', type: { kind: 'choice', options: STAGES } },
  { key: 'keptText', name: 'Kept text', type: { kind: 'text' } },
];

function readSpec(spec: Spec): Case {
  const types = spec.types.map((_, index) => typeOf(spec, index));
  const model = readModel(
    { types: [...types, RATES], selections: types.flatMap(selectionsOf), timeZone: 'Europe/London' },
    '2028-03-15',
  );
  const rules = readRules(model, spec);
  const rows = readRows(model, spec);
  const saves: Edit[][] = [];
  spec.saves.forEach((edits, at) => saves.push(readSave({ model, rows, earlier: saves.flat() }, edits, at)));
  return { model, rules, rows, saves };
}

const FOUND = 'found';

/** Each type after the first has one or two links to types before it, maybe to the same one; any may have a self link. */
function typeOf({ types }: Spec, index: number): RecordType {
  const choices = new Choices(types[index]!);
  const link = (key: string, target: number): Field => ({
    ...{ key, name: key.toUpperCase(), otherEnd: `By ${key}` },
    type: { kind: 'link', target: `type${target}` },
    whenParentGoes: choices.one(POLICIES),
  });
  const up = index === 0 ? [] : [link('a', choices.number() % index)];
  const second = index > 0 && choices.number() % 2 === 0 ? [link('b', choices.number() % index)] : [];
  const self = choices.number() % 2 === 0 ? [link('within', index)] : [];
  // For rules to fill.
  const found: Field[] =
    index > 0
      ? [
          {
            ...{ key: FOUND, name: 'Found', otherEnd: 'Found by', whenParentGoes: 'clear' },
            type: { kind: 'link', target: `type${choices.number() % index}` },
          },
        ]
      : [];
  return {
    ...{ key: `type${index}`, name: `Type ${index}`, plural: `Types ${index}`, title: 'title' },
    fields: [...ENTERED, ...up, ...second, ...self, ...found, ...KEPT],
    ...(isApart(second, found) && choices.number() % 2 === 0 ? { openLinks: [PLACE] } : {}),
  };
}

/** Links of an open link name different types. */
const isApart = ([one]: readonly Field[], [other]: readonly Field[]): boolean =>
  one?.type.kind === 'link' && other?.type.kind === 'link' && one.type.target !== other.type.target;

/** A record names one by hand, or a rule finds another: not both. */
const PLACE: OpenLink = { key: 'place', name: 'Place', links: ['b', FOUND] };

/** Choosing one link of an open link empties the other, as in what people enter. */
function asOneOf(type: RecordType, values: Record<string, Value>): Record<string, Value> {
  if (!type.openLinks) return values;
  const filled = PLACE.links.find((link) => (values[link] ?? null) !== null);
  if (filled === undefined) return values;
  return {
    ...values,
    ...Object.fromEntries(PLACE.links.map((link) => [link, link === filled ? values[link]! : null])),
  };
}

/** Two on each type, the second building on the first, with dates that move with the settled day. */
function selectionsOf({ key }: RecordType, index: number): Selection[] {
  const before = (plus: number): Expression => ({
    ...{ kind: 'compare', operator: '<', left: { kind: 'field', route: [], field: 'day' } },
    right: { kind: 'day', from: index % 2 === 0 ? 'today' : 'monthStart', plus, unit: 'month' },
  });
  const isIn = { kind: 'selection', operator: 'isNotIn', route: [], selection: `past${index}` } as const;
  const flagged: Expression = {
    ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: [], field: 'flag' } },
    right: { kind: 'constant', value: true },
  };
  return [
    { key: `past${index}`, name: `Past ${index}`, type: key, condition: before(-1) },
    {
      ...{ key: `open${index}`, name: `Open ${index}`, type: key },
      condition: { kind: 'group', operator: 'any', of: [isIn, flagged] },
    },
  ];
}

/** Rules that compile, keep different fields and run in no circle that can't settle; others of the spec are dropped. */
function readRules(model: Model, { rules }: Spec): Rule[] {
  const kept: Rule[] = [];
  rules.forEach((numbers, index) => {
    const written = readRule(model, new Choices(numbers), index);
    const rule = written && withPilot(model, written, numbers.at(-1)!);
    if (!rule || !compileRule(model, rule).ok) return;
    const beside = rule.pilot && numbers.at(-2)! % 2 === 0 ? withLive(rule, numbers.at(-3)!) : rule;
    const fits = [beside, rule].find((one) => buildPlan(model, [...kept, one]).problems.length === 0);
    if (fits) kept.push(fits);
  });
  return kept;
}

/** Some rules are pilots: for every other record, or for those of a selection. */
function withPilot(model: Model, rule: Rule, number: number): Rule {
  const { type } = rule.definition;
  const at = model.types.findIndex(({ key }) => key === type);
  const every = Array.from({ length: MOST_RECORDS / 2 }, (_, half) => idOf(at, half * 2));
  const made = Array.from({ length: 5 }, (_, save) => uuid(`9${save}0`));
  if (number % 7 === 0) return { ...rule, pilot: { kind: 'records', ids: [...every, ...made] } };
  if (number % 7 !== 1) return rule;
  const selection = `${number % 2 === 0 ? 'past' : 'open'}${at}`;
  return { ...rule, pilot: { kind: 'selection', selection } };
}

/** Tried beside a version that stays live for all others: one that has no condition, gives another result, or cascades something else. */
function withLive(rule: Rule, number: number): Rule {
  const version = uuid(`b${rule.id.slice(-4)}`);
  return { ...rule, beside: { version, definition: otherThan(rule.definition, number) } };
}

const TOTALS: readonly Aggregate[] = ['sum', 'average', 'minimum', 'maximum', 'median'];

function otherThan(definition: RuleDefinition, number: number): RuleDefinition {
  switch (definition.kind) {
    case 'rollUp': {
      const { aggregate, map } = definition;
      const other = TOTALS[number % TOTALS.length]!;
      const isTotal = TOTALS.includes(aggregate) && !map;
      return { ...definition, ...(isTotal ? { aggregate: other } : {}), condition: null };
    }
    case 'formula':
      return { ...definition, appliesWhen: null };
    case 'cascade':
      return { ...definition, condition: null };
    case 'link':
      return { ...definition, appliesWhen: null };
    case 'create':
      return definition;
  }
}

function readRule(model: Model, choices: Choices, index: number): Rule | null {
  const links = model.types.flatMap(({ key }) => model.linksFrom(key));
  if (choices.number() % 5 === 0) return ruleOf(readFormula(model, choices), index + 1);
  if (links.length === 0) return null;
  if (choices.number() % 4 === 0) return ruleOf(readCascade(model, choices), index + 1);
  if (choices.number() % 6 === 0) return ruleOf(readLinkRule(model, choices), index + 1);
  const link = choices.one(links);
  const aggregate = choices.one(AGGREGATES).aggregate;
  const target = choices.one(targetsOf(aggregate));
  const type = link.parent;
  const definition: RollUp = {
    ...{ kind: 'rollUp', type, target: target.key, aggregate, pace: 'withTheSave' },
    ...readSource(model, choices, { link, aggregate, target }),
    rounding: placesOf(target.type) === null ? null : readRounding(choices),
    whenNone: target.type.kind === 'number' && choices.number() % 2 === 0 ? '0' : null,
  };
  const also = choices.number() % 3 === 0 ? readAlso(model, choices, { link, aggregate, target }) : [];
  const joining =
    aggregate === 'joined'
      ? {
          joining: {
            separator: ', ',
            isDistinct: choices.number() % 2 === 0,
            isFromLast: choices.number() % 3 === 0,
            most: choices.one([null, 1, 2]),
          },
        }
      : aggregate === 'percentile'
        ? { percent: choices.one([1, 25, 50, 90]) }
        : {};
  const own = readOwn(choices, { link, aggregate, target });
  const isOrdered = aggregateEntry(aggregate).isOrdered === true;
  const other = choices.one(KEPT.filter(({ key }) => key !== target.key));
  const taken = ENTERED.find((field) => field.type.kind === other.type.kind);
  const together =
    isOrdered && taken
      ? [
          {
            target: other.key,
            values: [0, ...also].map((): FieldRead => ({ kind: 'field', route: [], field: taken.key })),
          },
        ]
      : [];
  const limits = choices.number() % 8 === 0 ? { limits: choices.one(LIMITS) } : {};
  const written: RollUp = {
    ...{ ...definition, ...joining, ...limits, also, own },
    ...(together.length > 0 && choices.number() % 2 === 0 ? { together } : {}),
  };
  if (choices.number() % 3 === 0) return ruleOf(readMap(model, choices, written), index + 1);
  const isApart = choices.number() % 3 === 0;
  const apart = { ...definition, ...joining, ...limits };
  return ruleOf(isApart ? readPerOption(choices, apart) : written, index + 1);
}

/** The same with a field for each option, as many as there are fields that take what it gives. */
function readPerOption(choices: Choices, rule: RollUp): RollUp {
  const further = targetsOf(rule.aggregate).filter(({ key }) => key !== rule.target);
  const options = choices.number() % 2 === 0 ? ['early', 'late', null] : [null, 'middle', 'early'];
  const others = further.slice(0, 2).map(({ key }, at) => ({ target: key, option: options[at + 1] ?? null }));
  return {
    ...rule,
    perOption: { by: { kind: 'field', route: [], field: 'stage' }, option: options[0] ?? null, others },
  };
}

const LIMITS = [{ least: '0' }, { most: '2.5' }, { least: '-3', most: '100' }];

/** The same with what is written for which result: kept so, or only when the result changes. */
function readMap(model: Model, choices: Choices, written: RollUp): RollUp {
  const value = written.value?.kind === 'arithmetic' ? written.value.left : written.value;
  const read = [...ENTERED, ...KEPT].find(({ key }) => value?.kind === 'field' && value.field === key);
  const result = resultOffered(written.aggregate, read?.type ?? null);
  const isReacting = choices.number() % 3 > 0;
  // Into what people enter a rule may only react.
  const target = choices.one(isReacting ? ENTERED.slice(1, 3) : KEPT.slice(1));
  const isOrdered = result && !['yesNo', 'text'].includes(result.kind);
  const than = result ? constantOf(result.kind, choices) : null;
  const ordered: CompareOperator[][] = [['<', '>='], ['>=', '='], ['!=']];
  const operators = choices.one(isOrdered ? ordered : ([['=', '!='], ['=']] as CompareOperator[][]));
  const rows = operators.map((operator) => ({
    ...{ operator, than },
    writes: choices.number() % 5 === 0 ? null : constantOf(target.type.kind, choices),
  }));
  const whenNone = choices.number() % 2 === 0 ? null : constantOf(target.type.kind, choices);
  const mapped = { ...written, target: target.key, whenNone };
  if (!isReacting) {
    const last = constantOf(target.type.kind, choices);
    return { ...mapped, map: { rows, otherwise: { kind: 'writes', value: last } } };
  }
  return {
    ...{ ...mapped, map: { rows, otherwise: { kind: 'asItIs' } } },
    // Few of what is edited may be left out, or results would seldom change.
    condition: choices.number() % 3 === 0 ? written.condition : null,
    appliesWhen: choices.number() % 3 === 0 ? readCondition(model, written.type, choices, 1) : null,
  };
}

function constantOf(kind: Field['type']['kind'], choices: Choices): WireValue {
  switch (kind) {
    case 'money':
      return { amount: choices.one(['0', '10', '12.34']), currency: 'GBP' };
    case 'number':
    case 'rating':
      return choices.one(['0', '1', '2']);
    case 'date':
      return choices.one(DAYS);
    case 'yesNo':
      return choices.number() % 2 === 0;
    case 'choice':
      return choices.one(STAGES).key;
    default:
      return choices.one(['t0.1', 'other']);
  }
}

interface About {
  readonly link: Link;
  readonly aggregate: Aggregate;
  readonly target: Field;
}

/** Products and quotients of the record's own numbers, of those above it and of what lies beneath it, where a condition holds. */
function readFormula(model: Model, choices: Choices): Formula {
  const type = choices.one(model.types.filter(({ rates }) => !rates)).key;
  const ups = model.linksFrom(type);
  const downs = model.linksTo(type);
  const number = (): Expression => {
    const which = choices.number() % 5;
    const read = (route: readonly string[]): Expression => ({
      ...{ kind: 'field', route, field: choices.one(['units', 'keptCount', 'keptMean', 'keptGrade']) },
    });
    if (which === 0 && ups.length > 0) return read([choices.one(ups).link]);
    if (which === 1 && downs.length > 0) {
      // Beneath it, or beneath what lies above it: its siblings, and itself.
      const above = ups.length > 0 && choices.number() % 3 === 0 ? choices.one(ups) : null;
      const down = choices.one(above ? model.linksTo(above.parent) : downs);
      return {
        ...{ kind: 'gather', aggregate: choices.one(['sum', 'count']), down: [stepDown(down)] },
        up: above ? [above.link] : [],
        ...{ value: read([]), condition: readCondition(model, down.type, choices, 1) },
      };
    }
    if (which === 2)
      return { kind: 'arithmetic', operator: choices.one(['*', '/']), left: read([]), right: read([]) };
    return read([]);
  };
  const condition = readCondition(model, type, choices, 1);
  const value: Expression =
    condition && choices.number() % 3 === 0
      ? { kind: 'if', condition, then: number(), otherwise: number() }
      : number();
  return {
    ...{ kind: 'formula', type, target: choices.one(['keptMean', 'keptGrade', 'keptCount']), value },
    ...{ appliesWhen: choices.number() % 2 === 0 ? readCondition(model, type, choices, 0) : null },
    ...{ otherwise: choices.number() % 3 === 0 ? number() : null },
    ...{ rounding: readRounding(choices), pace: 'withTheSave' },
  };
}

/** Kept in step, at creation or on change; along a link down or up, to siblings, or to the record itself. */
function readCascade(model: Model, choices: Choices): Cascade {
  const link = choices.one(model.types.flatMap(({ key }) => model.linksFrom(key)));
  const which = choices.number() % 4;
  const [toParent, toChild]: [Step, Step] = [{ direction: 'up', link: link.link }, stepDown(link)];
  const isUpward = which > 1 ? choices.number() % 2 === 0 : choices.number() % 3 === 0;
  const type = isUpward ? link.type : link.parent;
  const others = model.linksFrom(link.type).filter((other) => other.link !== link.link);
  // Over the same records up another of their links: a bridge.
  const isAcross = !isUpward && others.length > 0 && which !== 3 && choices.number() % 3 === 0;
  const across = isAcross ? choices.one(others) : null;
  const route: Step[] = isUpward
    ? which === 3
      ? [toParent, toChild]
      : choices.one([[toParent], [toParent, toChild], ...(which > 1 ? [[]] : [])])
    : [toChild, ...(across ? [{ direction: 'up', link: across.link } as const] : [])];
  const recipient = across ? across.parent : isUpward && route.length === 1 ? link.parent : link.type;
  const isSelf = link.parent === link.type;
  const isSame = isSelf && which < 2 && !isUpward && !across && choices.number() % 2 === 0;
  const target = choices.one(which < 2 && !isSame ? KEPT : ENTERED.slice(1, 6));
  const alike = [...ENTERED, ...KEPT].filter((field) => field.type.kind === target.type.kind);
  const field = isSame ? target.key : choices.one(alike).key;
  const watched = choices.one([...ENTERED.slice(1, 6), ...KEPT.slice(0, 3)]).key;
  const test: ChangeTest =
    choices.number() % 3 === 0
      ? { kind: 'became', field: 'stage', value: choices.one(STAGES).key }
      : { kind: 'changed', field: watched };
  const isChange = which === 2;
  return {
    ...{ kind: 'cascade', type, route, pace: 'withTheSave' },
    condition: choices.number() % 2 === 0 ? null : readCondition(model, recipient, choices, 1),
    moment: which < 2 ? 'inStep' : isChange ? { kind: 'onChange', tests: [test], where: null } : 'atCreation',
    ...(isChange && isSelf && !isUpward && !across && choices.number() % 2 === 0
      ? { isAllTheWay: true }
      : {}),
    ...(isChange ? { only: choices.one(['all', 'empty', 'oldValue'] as const) } : {}),
    ...(route.length === 2 && isUpward && choices.number() % 2 === 0 ? { same: ['stage'] } : {}),
    order: choices.one([
      { field: { kind: 'field', route: [], field: 'units' }, isLast: choices.number() % 2 === 0 },
      { field: { kind: 'field', route: [], field: 'keptStage' }, isLast: false },
      { field: null, isLast: choices.number() % 2 === 0 },
    ]),
    assignments: [
      {
        target: target.key,
        value:
          isChange && choices.number() % 4 === 0 && field !== 'title'
            ? { kind: 'before', field }
            : { kind: 'expression', expression: { kind: 'field', route: [], field } },
      },
    ],
  };
}

/** Over a link up, to the top of a hierarchy from there, or by what is the same; always, or where it is empty. */
function readLinkRule(model: Model, choices: Choices): LinkRule {
  const filled = model.types.flatMap(({ key }) => model.linksFrom(key).filter(({ link }) => link === FOUND));
  const { type, parent } = choices.one(filled);
  const ways = model
    .linksFrom(type)
    .filter((up) => up.parent === parent && up.link !== FOUND && up.link !== 'within');
  const self = model.linksFrom(parent).find((up) => up.parent === parent);
  const isAlways = choices.number() % 3 > 0;
  const key = choices.one(['title', 'stage', 'day', 'flag', 'keptCount', 'keptStage']);
  const find: Finding =
    ways.length > 0 && choices.number() % 2 === 0
      ? {
          ...{ kind: 'route', route: [choices.one(ways).link], topmost: self?.link ?? null },
          whenNoneAbove: choices.one(['itself', 'empty'] as const),
        }
      : {
          ...{ kind: 'match', keys: [{ field: key, value: { kind: 'field', route: [], field: key } }] },
          ...{ ignoresCase: choices.number() % 2 === 0 },
          condition: choices.number() % 2 === 0 ? null : readCondition(model, parent, choices, 1),
          several: isAlways || choices.number() % 2 === 0 ? 'first' : 'ask',
          order: choices.one([
            null,
            { field: null, isLast: true },
            { field: { kind: 'field', route: [], field: 'units' }, isLast: choices.number() % 2 === 0 },
            { field: { kind: 'field', route: [], field: 'keptStage' }, isLast: false },
          ] as const),
        };
  return {
    ...{ kind: 'link', type, target: FOUND, find, pace: 'withTheSave' },
    appliesWhen: choices.number() % 2 === 0 ? null : readCondition(model, type, choices, 1),
    holds: isAlways ? 'always' : 'whereEmpty',
    none: choices.one(['leave', 'clear'] as const),
  };
}

/** Over one link, over several, or down to a record and up another of its links: a bridge. */
function readSource(model: Model, choices: Choices, { link, aggregate, target }: About): RollUpSource {
  const route: Step[] = [stepDown(link)];
  const which = choices.number() % 6;
  let at = link.type;
  const deeper = model.linksTo(at);
  if (which === 0 && deeper.length > 0) {
    const next = choices.one(deeper);
    route.push(stepDown(next));
    at = next.type;
  }
  // Over a link of the type to itself: also what lies further down, or what hangs under any of it.
  if (link.parent === link.type && choices.number() % 2 === 0)
    route[0] = { ...stepDown(link), isAllTheWay: true };
  // Over two links to the same record one would be a part of itself.
  const ups = model
    .linksFrom(at)
    .filter((up) => up.link !== link.link && up.link !== FOUND && link.link !== FOUND);
  const up = which === 1 && ups.length > 0 ? choices.one(ups) : null;
  if (up) route.push({ direction: 'up', link: up.link });
  const values = [...ENTERED, ...KEPT].filter((field) => fits(field, aggregate, target));
  const value = aggregate === 'count' ? null : choices.one(values.length > 0 ? values : [null]);
  return {
    route,
    value:
      value && productOf({ kind: 'field', route: up ? [up.link] : [], field: value.key }, value, choices),
    condition: readCondition(model, at, choices, 0),
    ...(aggregateEntry(aggregate).isOrdered ? { order: ORDER } : {}),
    ...(up && choices.number() % 2 === 0 ? { isEveryWay: true } : {}),
  };
}

/** One order for all sources of a rule: they must be alike. */
const ORDER: readonly FieldRead[] = ['stage', 'day'].map((field) => ({ kind: 'field', route: [], field }));

/** A number or an amount of money as it is, or times the units of the same record. */
function productOf(read: FieldRead, { type }: Field, choices: Choices): Expression {
  if (type.kind !== 'money' && type.kind !== 'number') return read;
  if (type.kind === 'money' && choices.number() % 3 === 0) return exchanged(read, choices);
  if (choices.number() % 4 !== 0) return read;
  return { kind: 'arithmetic', operator: '*', left: read, right: { ...read, field: 'units' } };
}

/** The price of the same record in pounds: at the rate of its own day, or of today. */
function exchanged(read: FieldRead, choices: Choices): Expression {
  const day: Expression =
    choices.number() % 2 === 0
      ? { ...read, field: 'day' }
      : { kind: 'day', from: 'today', plus: 0, unit: 'day' };
  const code: Expression = { kind: 'constant', value: 'GBP', type: { kind: 'text' } };
  return { kind: 'call', name: 'exchange', arguments: [{ ...read, field: 'price' }, code, day] };
}

/** Other children of the same type, or what the rule gives further down over a self link or a bridge of the type with itself. */
function readAlso(model: Model, choices: Choices, about: About): RollUpSource[] {
  const { parent } = about.link;
  const links = model.linksTo(parent);
  const self = links.find(({ type }) => type === parent);
  const own = links.filter(({ link }) => link !== FOUND);
  const twice = own.find(({ type }) => own.filter((other) => other.type === type).length > 1);
  const read = (route: readonly string[]): FieldRead => ({ kind: 'field', route, field: about.target.key });
  const which = choices.number() % 3;
  if (which === 0 && self)
    return [
      { route: [stepDown(self)], value: read([]), condition: readCondition(model, parent, choices, 1) },
    ];
  if (which === 1 && twice && twice.type !== parent) {
    const other = own.find(({ type, link }) => type === twice.type && link !== twice.link)!;
    return [
      {
        route: [stepDown(twice), { direction: 'up', link: other.link }],
        value: read([other.link]),
        condition: null,
        isEveryWay: choices.number() % 2 === 0,
      },
    ];
  }
  return [readSource(model, choices, { ...about, link: choices.one(links) })];
}

function readOwn(choices: Choices, { aggregate, target }: About): OwnValues {
  const values = ENTERED.filter((field) => fits(field, aggregate, target));
  const like = ENTERED.filter(({ type }) => type.kind === target.type.kind);
  const one = (of: readonly Field[]): FieldRead | null =>
    of.length === 0 ? null : { kind: 'field', route: [], field: choices.one(of).key };
  const which = choices.number() % 8;
  return {
    ...(which === 0 || which === 1 ? { adds: aggregate === 'count' ? null : one(values) } : {}),
    ...(which === 1 || which === 2 ? { standsIn: one(like) } : {}),
    ...(which === 3 ? { whenNone: one(like) } : {}),
  };
}

function readRounding(choices: Choices): Rounding | null {
  const which = choices.number() % 6;
  if (which > 1) return null;
  const mode = choices.one(['nearest', 'up', 'down'] as const);
  const places = choices.number() % 3;
  return which === 0 ? { mode, places } : { mode, places: 0, step: choices.one(['0.25', '5', '0.03']) };
}

const COUNTS: readonly Aggregate[] = ['count', 'countDistinct'];

const targetsOf = (aggregate: Aggregate): readonly Field[] =>
  COUNTS.includes(aggregate)
    ? KEPT.filter(({ type }) => type.kind === 'number' || type.kind === 'rating')
    : KEPT;

function fits({ type }: Field, aggregate: Aggregate, target: Field): boolean {
  const takes = aggregateEntry(aggregate).kinds;
  const numeric = ['number', 'rating'];
  return (
    takes.includes(type.kind) &&
    (aggregate === 'countDistinct' ||
      type.kind === target.type.kind ||
      (numeric.includes(type.kind) && numeric.includes(target.type.kind)))
  );
}

/** Tests on the record's own fields, kept ones among them, and up its links. */
function readCondition(model: Model, type: string, choices: Choices, depth: number): Expression | null {
  const which = choices.number() % (depth === 0 ? 12 : 8);
  const ups = model.linksFrom(type);
  const route = ups.length > 0 && choices.number() % 3 === 0 ? [choices.one(ups).link] : [];
  const read = (field: string): Expression => ({ kind: 'field', route, field });
  const compare = (
    field: string,
    operator: '=' | '!=' | '>' | '<=',
    value: string | boolean | object,
  ): Expression => ({
    ...{ kind: 'compare', operator, left: read(field) },
    right: { kind: 'constant', value: value as string },
  });
  switch (which) {
    case 0:
      return compare('stage', '=', choices.one(STAGES).key);
    case 1:
      return compare('flag', '!=', true);
    case 2:
      return compare('amount', '>', { amount: '10', currency: 'GBP' });
    case 3:
      return compare('keptCount', '<=', '1');
    case 4:
      return {
        kind: 'presence',
        operator: 'isEmpty',
        operand: read(choices.one(['keptTotal', 'day', 'units'])),
      };
    case 5:
      return compare('units', '<=', '2.5');
    case 6: {
      const at = route.length === 0 ? type : ups.find(({ link }) => link === route[0])!.parent;
      const selection = choices.one((model.selections ?? []).filter((one) => one.type === at)).key;
      return { kind: 'selection', operator: choices.one(['isIn', 'isNotIn']), route, selection };
    }
    case 7:
      if (choices.number() % 2 === 0)
        return {
          ...{ kind: 'compare', operator: choices.one(['=', '!=', '<', '<=', '>', '>='] as const) },
          left: read('seen'),
          right: choices.one([
            { kind: 'day', from: 'today', plus: choices.one([0, -1, 1]), unit: 'day' },
            { kind: 'day', from: 'today', plus: -9, unit: 'month' },
            { kind: 'day', from: 'today', plus: choices.one([-36, -12, 0]), unit: 'hour' },
          ]),
        };
      return {
        ...{ kind: 'compare', operator: '>=', left: read('day') },
        right: {
          kind: 'day',
          from: 'today',
          plus: -choices.number() % 3,
          unit: choices.one(['day', 'year']),
        },
      };
    case 8:
      return null;
    default: {
      const parts = [0, 1].flatMap(() => readCondition(model, type, choices, depth + 1) ?? []);
      return { kind: 'group', operator: choices.one(['all', 'any', 'none']), of: parts };
    }
  }
}

const idOf = (type: number, number: number): string => uuid(`${type + 1}${String(number).padStart(3, '0')}`);

const AMOUNTS = ['0', '12.34', '-3.01', '900.50', '10', '99999999999.99'];
const UNITS = ['0', '2.5', '-1.25', '0.01', '1000000'];
const DAYS = ['2027-02-28', '1999-12-31', '2028-02-29'];

const PAIRS = ['EUR/GBP', 'EUR/GBP', 'JPY/GBP', 'GBP/EUR'];
/** Beside midnights by the clocks in London, in summer and in winter. */
const MOMENTS = [
  ...['2028-03-15T00:00:00.000Z', '2028-03-14T23:59:59.999Z', '2028-03-14T12:00:00.000Z'],
  ...['2027-06-14T23:00:00.000Z', '2027-06-14T22:59:59.999Z', '2027-06-15T22:59:59.999Z'],
];

const RATE_DAYS = ['2028-03-15', '2028-03-09', '2027-02-28', '2027-02-23', '2028-02-20'];

const rateFrom = (choices: Choices): Record<string, Value> => ({
  day: choices.number() % 7 === 0 ? null : choices.one(RATE_DAYS),
  rate: choices.number() % 7 === 0 ? null : decimal(choices.one(['0.85', '1.2345', '0.0063'])),
});

function valuesFrom(choices: Choices): Record<string, Value> {
  const optional = (value: Value): Value => (choices.number() % 4 === 0 ? null : value);
  return {
    stage: optional(choices.one(STAGES).key),
    flag: optional(choices.number() % 2 === 0),
    amount: optional(gbp(choices.one(AMOUNTS))),
    units: optional(decimal(choices.one(UNITS))),
    day: optional(choices.one(DAYS)),
    seen: optional(choices.one(MOMENTS)),
    price: optional({
      amount: new Decimal(choices.one(['0', '12', '-3', '900'])),
      currency: choices.one(['EUR', 'GBP', 'JPY']),
    }),
  };
}

/** Records are dealt to the types in turn; links name earlier records, so that there are no loops to begin with. */
function readRows(model: Model, { records, types }: Spec): Row[] {
  const rows: Row[] = [];
  records.forEach((numbers, index) => {
    const choices = new Choices(numbers);
    const type = index % types.length;
    const values: Record<string, Value> = { title: `t${type}.${index}`, ...valuesFrom(choices) };
    for (const { link, parent } of model.linksFrom(`type${type}`)) {
      const offered = rows.filter((row) => row.type === parent);
      values[link] = offered.length > 0 && choices.number() % 5 !== 0 ? choices.one(offered).id : null;
    }
    untangle(model, `type${type}`, values);
    const given = asOneOf(typeIn(model, `type${type}`), values);
    rows.push(rowOf(model, `type${type}`, idOf(type, index), given));
  });
  const choices = new Choices(records[0]!);
  for (const at of [0, 1, 2, 3])
    rows.push(rowOf(model, 'rate', idOf(20, at), { ...rateFrom(choices), pair: choices.one(PAIRS) }));
  return rows;
}

/** Over a bridge of a type with itself the earlier record is the whole, so that nothing is a part of itself to begin with. */
function untangle(model: Model, type: string, values: Record<string, Value>): void {
  const [a, b] = model.linksFrom(type);
  if (!a || !b || a.parent !== b.parent) return;
  const ends = [values[a.link], values[b.link]].filter((id) => typeof id === 'string').sort();
  if (ends.length < 2) return;
  values[a.link] = ends[0]!;
  values[b.link] = ends[0] === ends[1] ? null : ends[1]!;
}

interface Saving {
  readonly model: Model;
  readonly rows: readonly Row[];
  /** Edits of the saves before. */
  readonly earlier: readonly Edit[];
}

interface Editing extends Saving {
  /** Records that were made, in the same save too. */
  readonly made: readonly Edit[];
}

function readSave(saving: Saving, edits: readonly (readonly number[])[], save: number): Edit[] {
  const read: Edit[] = [];
  for (const [at, numbers] of edits.entries()) {
    const made = [...saving.earlier, ...read].filter(({ kind }) => kind === 'create');
    read.push(readEdit({ ...saving, made }, new Choices(numbers), `${save}${at}`));
  }
  return read.filter((edit, at) => read.findIndex((other) => other.id === edit.id) === at);
}

/** Some of them can't be done (a loop, a parent in the bin): stores refuse these, and all refuse the same. */
function readEdit({ model, rows, earlier, made }: Editing, choices: Choices, number: string): Edit {
  const which = choices.number() % 10;
  const row = choices.one(rows);
  const gone = earlier.filter(({ kind }) => kind === 'delete');
  if (which === 0) return { kind: 'delete', type: row.type, id: row.id };
  if (which < 3 && gone.length > 0) {
    const { type, id } = choices.one(gone);
    return { kind: 'restore', type, id };
  }
  if (which === 3 && choices.number() % 6 === 0) return { kind: 'restore', type: row.type, id: row.id };
  if (row.type === 'rate') return { kind: 'edit', type: 'rate', id: row.id, values: rateFrom(choices) };
  const links: Record<string, Value> = {};
  for (const { link, parent } of model.linksFrom(row.type)) {
    // What a rule may keep is seldom entered: it would be refused.
    if (link === FOUND && choices.number() % 5 !== 0) continue;
    const offered = [...rows, ...made].filter((other) => other.type === parent);
    links[link] = offered.length > 0 && choices.number() % 4 !== 0 ? choices.one(offered).id : null;
  }
  const type = typeIn(model, row.type);
  const values = asOneOf(type, { ...valuesFrom(choices), ...links });
  if (which === 4)
    return {
      kind: 'create',
      type: row.type,
      id: uuid(`9${number}`),
      values: { title: `new ${number}`, ...values },
    };
  const chosen = Object.entries(values).filter(() => choices.number() % 2 === 0);
  return { kind: 'edit', type: row.type, id: row.id, values: asOneOf(type, Object.fromEntries(chosen)) };
}

/** A case for people to read: a failing one is a recipe. */
export function printCase({ model, rules, rows, saves }: Case): string {
  const nameOf = (id: string) =>
    (rows.find((row) => row.id === id)?.values.title as string | undefined) ?? id;
  const show = (values: Readonly<Record<string, Value>>) =>
    Object.entries(values)
      .flatMap(([key, value]) =>
        value === null ? [] : [`${key}=${typeof value === 'string' ? nameOf(value) : JSON.stringify(value)}`],
      )
      .join(' ');
  const sentences = rules.flatMap((rule) => {
    const compiled = compileRule(model, rule);
    const pilot = rule.pilot ? ` In pilot: ${JSON.stringify(rule.pilot)}` : '';
    return compiled.ok ? [`${rule.name}: ${sentenceOf(model, compiled.rule)}${pilot}`] : [];
  });
  const links = model.types.flatMap(({ key }) =>
    model.linksFrom(key).map(({ link, parent, policy }) => `${key}.${link} → ${parent} (${policy})`),
  );
  const records = rows.map((row) => `${row.type} ${show(row.values)}`);
  const runs = saves.map(
    (edits, at) =>
      `Save ${at + 1}:\n${edits
        .map(
          (edit) =>
            `  ${edit.kind} ${edit.type} ${nameOf(edit.id)} ${'values' in edit ? `${show(edit.values)} [${Object.keys(edit.values).join(',')}]` : ''}`,
        )
        .join('\n')}`,
  );
  return ['Links:', ...links, 'Rules:', ...sentences, 'Records:', ...records, ...runs].join('\n');
}

/** The same with rules of whatever pace: some asked for by a yes/no field, some of them kept themselves. */
export const pacedCase: fc.Arbitrary<Case> = fc
  .tuple(anyCase, fc.array(fc.nat(99), { minLength: 8, maxLength: 8 }))
  .map(([given, choices]) => {
    const made = { ...given, rules: given.rules.reduce(withPace(given.model, choices), [...given.rules]) };
    return Object.defineProperty(made, fc.toStringMethod, {
      value: () => `\n${printCase(made)}`,
      enumerable: false,
    });
  });

const PACES: readonly Pace[] = [
  'withTheSave',
  'soonAfter',
  { kind: 'timetable', every: 'day', at: '06:00' },
  { kind: 'onRequest', field: null },
  { kind: 'onRequest', field: 'flag' },
  { kind: 'onRequest', field: 'keptFlag' },
];

/** Gives a rule a pace where the rules still fit together then. */
const withPace =
  (model: Model, choices: readonly number[]) =>
  (rules: Rule[], rule: Rule, place: number): Rule[] => {
    const pace = PACES[choices[place]! % PACES.length]!;
    const at = (definition: RuleDefinition) => ({ ...definition, pace }) as RuleDefinition;
    const { beside } = rule;
    const other = beside ? { beside: { ...beside, definition: at(beside.definition) } } : {};
    const paced = rules.map((one) =>
      one === rule ? { ...rule, ...other, definition: at(rule.definition) } : one,
    );
    return buildPlan(model, paced).problems.length === 0 ? paced : rules;
  };

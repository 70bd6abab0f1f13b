import { byKind, certain } from '@/core/values';
import type { Expression } from '@/core/expression';
import { arrive, isAllTheWay, type Model, stepDown, typeIn } from '@/core/model';
import { buildPlan } from '@/core/plan';
import {
  type Aggregate,
  aggregateEntry,
  type Assignment,
  type Cascade,
  type ChangeTest,
  type Create,
  type Formula,
  type LinkRule,
  type OptionTarget,
  percentWords,
  reachOf,
  type RollUp,
  type RollUpSource,
  type Rule,
  type RuleDefinition,
} from '@/core/rules';
import { type Changed, changesOf, movedByOne, wordsOf } from './vary-expression';
import { wordsOfValue } from '@/core/verify/family/value-words';
import type { Forgets } from '@/core/verify/rehearsal/run-through';

/** A rule changed a little, to see whether a proof notices. */
export interface Variant {
  readonly definition: RuleDefinition;
  /** What was done to it: `without “Stage is Agreed”`. */
  readonly what: string;
  /** Edits that it doesn't follow. */
  readonly forgets?: Forgets;
}

/** Every way to change a rule a little that may matter and still makes a rule that fits the model, each once. */
export function variantsOf(model: Model, rule: Rule): Variant[] {
  const seen = new Set([JSON.stringify(rule.definition)]);
  const found: Variant[] = [];
  for (const variant of changedRules(rule.definition, model)) {
    const key = JSON.stringify(variant.definition);
    if (seen.has(key)) continue;
    seen.add(key);
    if (buildPlan(model, [{ ...rule, definition: variant.definition }]).problems.length === 0)
      found.push(variant);
  }
  return found;
}

const changedRules = byKind<RuleDefinition, [model: Model], Iterable<Variant>>({
  rollUp: (definition, model) => changedRollUps(model, definition),
  formula: (definition, model) => changedFormulas(model, definition),
  cascade: (definition, model) => changedCascades(model, definition),
  create: (definition, model) => changedCreates(model, definition),
  link: (definition, model) => changedLinks(model, definition),
});

/** A condition left out, or changed. */
function* changedConditions(
  model: Model,
  type: string,
  condition: Expression | null | undefined,
): Generator<{ readonly to: Expression | null; readonly what: string }> {
  if (!condition) return;
  yield { to: null, what: `without “${wordsOf({ model, type }, condition)}”` };
  yield* changesOf({ model, type }, condition);
}

const changedValues = (model: Model, type: string, value: Expression | null): Iterable<Changed> =>
  value ? changesOf({ model, type }, value) : [];

const OTHER_AGGREGATES: Partial<Record<Aggregate, readonly Aggregate[]>> = {
  count: ['countDistinct'],
  countDistinct: ['count'],
  sum: ['average', 'maximum', 'minimum'],
  average: ['sum', 'maximum', 'minimum'],
  median: ['average', 'maximum', 'minimum'],
  percentile: ['median', 'maximum'],
  deviation: ['range', 'average'],
  minimum: ['maximum', 'average'],
  maximum: ['minimum', 'average'],
  range: ['maximum', 'sum'],
  all: ['any', 'none'],
  any: ['all', 'none'],
  none: ['any', 'all'],
  best: ['worst'],
  worst: ['best'],
  first: ['last'],
  last: ['first'],
};

/** What one aggregate alone has. */
function* changedParts(rule: RollUp): Generator<Variant> {
  const { aggregate, percent, joining } = rule;
  if (aggregate === 'percentile' && percent !== undefined)
    for (const moved of [percent - 1, percent + 1].filter((one) => one >= 1 && one <= 99))
      yield {
        definition: { ...rule, percent: moved },
        what: `with ${percentWords(moved)} in place of ${percentWords(percent)}`,
      };
  if (joining?.isFromLast)
    yield {
      definition: { ...rule, joining: { ...joining, isFromLast: false } },
      what: 'from the first to the last in place of from the last to the first',
    };
}

function* changedRollUps(model: Model, rule: RollUp): Generator<Variant> {
  for (const aggregate of OTHER_AGGREGATES[rule.aggregate] ?? []) {
    const words = aggregateEntry(aggregate).words;
    yield {
      definition: { ...rule, aggregate },
      what: `with the ${words} in place of the ${aggregateEntry(rule.aggregate).words}`,
    };
  }
  yield* changedParts(rule);
  for (const { to, what } of changedSources(model, rule.type, rule))
    yield { definition: { ...rule, ...to }, what };
  for (const [at, source] of (rule.also ?? []).entries()) {
    const put = (to: RollUpSource | null) => ({
      ...rule,
      also: certain(rule.also).flatMap((one, index) => (index === at ? (to ?? []) : one)),
    });
    yield { definition: put(null), what: 'without one of the kinds of records that it brings together' };
    for (const { to, what } of changedSources(model, rule.type, source)) yield { definition: put(to), what };
  }
  yield* changedOptions(model, rule);
  const target = model.field(rule.type, rule.target);
  if (rule.whenNone !== null) {
    yield { definition: { ...rule, whenNone: null }, what: 'with nothing where none count' };
    for (const value of target ? movedByOne(target.type, rule.whenNone) : [])
      yield {
        definition: { ...rule, whenNone: value },
        what: `with ${wordsOfValue(certain(target).type, value)} where none count`,
      };
  }
  if (rule.rounding) yield { definition: { ...rule, rounding: null }, what: 'without its rounding' };
  if (rule.limits) {
    const { limits: _dropped, ...unlimited } = rule;
    yield { definition: unlimited, what: 'without its limits' };
  }
  for (const { to, what } of changedConditions(model, rule.type, rule.appliesWhen))
    yield { definition: { ...rule, appliesWhen: to }, what };
  if (rule.map)
    for (const [at] of rule.map.rows.entries())
      if (rule.map.rows.length > 1)
        yield {
          definition: {
            ...rule,
            map: { ...rule.map, rows: rule.map.rows.filter((_, index) => index !== at) },
          },
          what: `without row ${at + 1} of its table`,
        };
}

/** Fields for each option: one of them left out, or two that have each other's records. */
function* changedOptions(model: Model, rule: RollUp): Generator<Variant> {
  const { perOption } = rule;
  if (!perOption) return;
  const { option, others } = perOption;
  const name = (target: string) => model.field(rule.type, target)?.name ?? target;
  for (const [at, one] of others.entries()) {
    const put = (to: readonly OptionTarget[], first = option): RollUp => ({
      ...rule,
      perOption: { ...perOption, option: first, others: to },
    });
    yield { definition: put(others.filter((other) => other !== one)), what: `without ${name(one.target)}` };
    const before = others[at - 1];
    const swapped = others.map((other) =>
      other === one
        ? { ...one, option: before ? before.option : option }
        : other === before
          ? { ...other, option: one.option }
          : other,
    );
    yield {
      definition: put(swapped, before ? option : one.option),
      what: `with the records of ${name(before?.target ?? rule.target)} and ${name(one.target)} exchanged`,
    };
  }
}

/** Records that a roll-up brings together, changed a little. */
function* changedSources(
  model: Model,
  type: string,
  source: RollUpSource,
): Generator<{ readonly to: RollUpSource; readonly what: string }> {
  const own: RollUpSource = {
    ...{ route: source.route, value: source.value, condition: source.condition },
    ...(source.isEveryWay === undefined ? {} : { isEveryWay: source.isEveryWay }),
    ...(source.order ? { order: source.order } : {}),
  };
  const down = source.route.filter(({ direction }) => direction === 'down');
  const member = arrive(model, type, down);
  if (member === undefined) return;
  for (const { to, what } of changedConditions(model, member, source.condition))
    yield { to: { ...own, condition: to }, what };
  for (const { to, what } of changedValues(model, member, source.value))
    yield { to: { ...own, value: to }, what };
  const [first, ...onward] = source.route;
  if (isAllTheWay(first))
    yield {
      to: { ...own, route: [stepDown(first), ...onward] },
      what: 'one level down in place of all the way',
    };
  if (source.route.some(({ direction }) => direction === 'up'))
    yield {
      to: { ...own, isEveryWay: source.isEveryWay !== true },
      what: source.isEveryWay ? 'with a record counted once' : 'with a record counted on every way to it',
    };
}

function* changedFormulas(model: Model, rule: Formula): Generator<Variant> {
  for (const { to, what } of changedValues(model, rule.type, rule.value))
    yield { definition: { ...rule, value: to }, what };
  for (const { to, what } of changedConditions(model, rule.type, rule.appliesWhen))
    yield { definition: { ...rule, appliesWhen: to }, what };
  if (rule.otherwise)
    yield { definition: { ...rule, otherwise: null }, what: 'with nothing where it doesn’t apply' };
  if (rule.rounding) yield { definition: { ...rule, rounding: null }, what: 'without its rounding' };
}

function* changedCascades(model: Model, rule: Cascade): Generator<Variant> {
  const recipient = arrive(model, rule.type, rule.route);
  if (recipient === undefined) return;
  for (const { to, what } of changedConditions(model, recipient, rule.condition))
    yield { definition: { ...rule, condition: to }, what };
  const { moment } = rule;
  if (moment !== 'atCreation')
    yield {
      definition: { ...rule, moment: 'atCreation' },
      what: 'only as records are made or come under it',
    };
  if (moment !== 'inStep') yield { definition: { ...rule, moment: 'inStep' }, what: 'kept in step' };
  yield* changedOrder(model, rule);
  if (typeof moment !== 'string') {
    for (const { to, what } of changedConditions(model, rule.type, moment.where))
      yield { definition: { ...rule, moment: { ...moment, where: to } }, what };
    for (const [at, test] of moment.tests.entries())
      for (const { to, what } of changedTests(model, rule.type, test)) {
        const tests = moment.tests.flatMap((one, index) => (index === at ? (to ?? []) : one));
        if (tests.length > 0) yield { definition: { ...rule, moment: { ...moment, tests } }, what };
      }
    for (const only of ['all', 'empty', 'oldValue'] as const)
      if (only !== (rule.only ?? 'all')) yield { definition: { ...rule, only }, what: ONLY[only] };
  }
  for (const { to, what } of changedAssignments(model, rule.type, recipient, rule.assignments))
    yield { definition: { ...rule, assignments: to }, what };
}

/** Where several may cascade to one, kept in step: which of them does. */
function* changedOrder(model: Model, rule: Cascade): Generator<Variant> {
  const { moment, route, same = [] } = rule;
  const order = rule.order ?? { field: null, isLast: false };
  if (moment !== 'inStep' || reachOf(model, rule.type, route) === 'beneath') return;
  const what = order.isLast ? 'the first in place of the last' : 'the last in place of the first';
  yield { definition: { ...rule, order: { ...order, isLast: !order.isLast } }, what };
  if (order.field)
    yield {
      definition: { ...rule, order: { ...order, field: null } },
      what: 'by the order of their making',
    };
  for (const key of same)
    yield {
      definition: { ...rule, same: same.filter((one) => one !== key) },
      what: `without the same ${model.field(rule.type, key)?.name ?? key}`,
    };
}

const ONLY = {
  all: 'over whatever stands there',
  empty: 'only where it is empty',
  oldValue: 'only where it still holds what was before',
} as const;

function* changedTests(
  model: Model,
  type: string,
  test: ChangeTest,
): Generator<{ readonly to: ChangeTest | null; readonly what: string }> {
  const field = model.field(type, test.field);
  if (!field) return;
  yield { to: null, what: `without watching ${field.name}` };
  if (test.kind === 'rose' || test.kind === 'fell') {
    const kind = test.kind === 'rose' ? 'fell' : 'rose';
    yield { to: { ...test, kind }, what: `when ${field.name} ${kind === 'rose' ? 'rises' : 'falls'}` };
  }
  if (test.kind !== 'became' && test.kind !== 'stoppedBeing') return;
  const kind = test.kind === 'became' ? 'stoppedBeing' : 'became';
  yield {
    to: { ...test, kind },
    what: kind === 'became' ? `when ${field.name} becomes it` : `when ${field.name} stops being it`,
  };
  yield { to: { kind: 'changed', field: test.field }, what: `whenever ${field.name} changes` };
  for (const value of movedByOne(field.type, test.value))
    yield {
      to: { ...test, value },
      what: `when ${field.name} ${test.kind === 'became' ? 'becomes' : 'stops being'} ${wordsOfValue(field.type, value)}`,
    };
}

function* changedAssignments(
  model: Model,
  source: string,
  target: string,
  assignments: readonly Assignment[],
): Generator<{ readonly to: readonly Assignment[]; readonly what: string }> {
  for (const [at, one] of assignments.entries()) {
    if (one.isOff) continue;
    const put = (to: Assignment) => assignments.map((old, index) => (index === at ? to : old));
    const name = typeIn(model, target).fields.find(({ key }) => key === one.target)?.name ?? one.target;
    yield { to: put({ ...one, isOff: true }), what: `without ${name}` };
    if (one.value.kind !== 'empty')
      yield { to: put({ ...one, value: { kind: 'empty' } }), what: `with ${name} emptied` };
    if (one.value.kind === 'before')
      yield {
        to: put({
          ...one,
          value: { kind: 'expression', expression: { kind: 'field', route: [], field: one.value.field } },
        }),
        what: `with ${name} from what stands after the change`,
      };
    if (one.value.kind === 'expression')
      for (const { to, what } of changedValues(model, source, one.value.expression))
        yield { to: put({ ...one, value: { kind: 'expression', expression: to } }), what };
    if (one.value.kind === 'map') {
      const { rows } = one.value;
      for (const [row] of rows.entries())
        if (rows.length > 1)
          yield {
            to: put({ ...one, value: { ...one.value, rows: rows.filter((_, index) => index !== row) } }),
            what: `without row ${row + 1} of the table of ${name}`,
          };
    }
  }
}

function* changedCreates(model: Model, rule: Create): Generator<Variant> {
  for (const { to, what } of changedConditions(model, rule.type, rule.condition))
    yield { definition: { ...rule, condition: to }, what };
  const each = rule.each === 'once' ? 'everyTime' : 'once';
  yield { definition: { ...rule, each }, what: each === 'once' ? 'one for each' : 'one each time' };
  for (const part of ['making', 'following', 'returning'] as const)
    for (const way of ['directly', 'proposal', 'not'] as const)
      if (rule[part] !== way)
        yield { definition: { ...rule, [part]: way }, what: `${PARTS[part]} ${WAYS[way]}` };
  for (const afterwards of ['left', 'unlinked', 'removed'] as const)
    if (rule.afterwards !== afterwards)
      yield { definition: { ...rule, afterwards }, what: `with what was made ${afterwards} afterwards` };
  if (rule.back !== null) yield { definition: { ...rule, back: null }, what: 'without the link back' };
  if (rule.forward !== null)
    yield { definition: { ...rule, forward: null }, what: 'without the link to what was made' };
  for (const { to, what } of changedAssignments(model, rule.type, rule.makes, rule.assignments))
    yield { definition: { ...rule, assignments: to }, what };
  for (const { to, what } of changedAssignments(model, rule.makes, rule.type, rule.gives ?? []))
    yield { definition: { ...rule, gives: to }, what };
}

const PARTS = { making: 'made', following: 'changes cascaded', returning: 'changes taken back' } as const;
const WAYS = { directly: 'at once', proposal: 'as a proposal', not: 'not at all' } as const;

function* changedLinks(model: Model, rule: LinkRule): Generator<Variant> {
  for (const { to, what } of changedConditions(model, rule.type, rule.appliesWhen))
    yield { definition: { ...rule, appliesWhen: to }, what };
  const holds = rule.holds === 'always' ? 'whereEmpty' : 'always';
  yield { definition: { ...rule, holds }, what: holds === 'always' ? 'kept' : 'only where it is empty' };
  const none = rule.none === 'leave' ? 'clear' : 'leave';
  yield {
    definition: { ...rule, none },
    what: none === 'leave' ? 'left as it is where none is found' : 'emptied where none is found',
  };
  const { find } = rule;
  if (find.kind === 'route') {
    if (find.topmost !== null) {
      yield {
        definition: { ...rule, find: { ...find, topmost: null } },
        what: 'without going to the topmost',
      };
      const whenNoneAbove = find.whenNoneAbove === 'itself' ? 'empty' : 'itself';
      yield {
        definition: { ...rule, find: { ...find, whenNoneAbove } },
        what: whenNoneAbove === 'itself' ? 'itself where nothing is above' : 'empty where nothing is above',
      };
    }
    return;
  }
  yield {
    definition: { ...rule, find: { ...find, ignoresCase: !find.ignoresCase } },
    what: find.ignoresCase ? 'minding case' : 'ignoring case',
  };
  const found = model.field(rule.type, rule.target)?.type;
  if (found?.kind === 'link')
    for (const { to, what } of changedConditions(model, found.target, find.condition))
      yield { definition: { ...rule, find: { ...find, condition: to } }, what };
  for (const [at] of find.keys.entries())
    if (find.keys.length > 1)
      yield {
        definition: { ...rule, find: { ...find, keys: find.keys.filter((_, index) => index !== at) } },
        what: 'without one of the fields that must be the same',
      };
  const several = find.several === 'first' ? 'ask' : 'first';
  yield {
    definition: { ...rule, find: { ...find, several } },
    what: several === 'ask' ? 'asking which of several' : 'the first of several',
  };
  if (find.order)
    yield {
      definition: { ...rule, find: { ...find, order: { ...find.order, isLast: !find.order.isLast } } },
      what: find.order.isLast ? 'the first in place of the last' : 'the last in place of the first',
    };
}

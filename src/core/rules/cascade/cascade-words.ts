import { firstIn, displayValue, parseValue, type ValueType, type WireValue } from '@/core/values';
import {
  describe,
  type NameOf,
  OF_RUN,
  typeCondition,
  typeFieldRead,
  typeValue,
  describeField,
} from '@/core/expression';
import { arrive, fieldIn, type Model, type Step, typeAlong, typeIn } from '@/core/model';
import type { AssignedValue, Cascade, ChangeTest, ReactingCascade, KeptCascade } from './cascade';
import { reachOf } from './cascade-route';
import { precedenceParts } from '@/core/rules/precedence';
import {
  paceParts,
  part,
  routeWords,
  type SentencePart,
  stepNames,
  words,
} from '@/core/rules/sentence-parts';

type CompiledCascade = KeptCascade | ReactingCascade;

/** `From every Exhibition to its Loans where Stage isn’t Declined, kept in step: Climate requirement from Climate requirement.` */
export function cascadeParts(model: Model, rule: CompiledCascade, nameOf?: NameOf): SentencePart[] {
  const { definition } = rule;
  const { type, condition, moment, only = 'all', order, assignments } = definition;
  const recipient = typeAlong(model, type, definition.route);
  const typed = condition ? typeCondition(model, recipient, condition) : null;
  const by = order?.field ? typeFieldRead(model, type, order.field) : null;
  const isOneOf = moment === 'inStep' || moment === 'atCreation';
  return [
    ...[words('From every '), part('type', typeIn(model, type).name), words(' to ')],
    part('route', recipientsWords(model, type, definition.route, definition.isAllTheWay)),
    ...(definition.same?.length
      ? [words(' with the same '), part('same', sameWords(model, recipient, definition.same))]
      : []),
    ...(typed?.ok ? [words(' where '), part('condition', describe(model, typed.value, nameOf))] : []),
    ...[words(', '), part('moment', momentWords(model, definition, nameOf)), words(': ')],
    ...assignments
      .filter(({ isOff }) => !isOff)
      .flatMap(({ target, value }, at) => [
        words(at === 0 ? '' : ', '),
        part(
          'assignments',
          `${fieldIn(model, recipient, target).name} ${assignedWords(model, definition, value, target)}`,
        ),
      ]),
    ...(only === 'all' ? [] : [words(', '), part('only', ONLY[only])]),
    ...(order
      ? [
          words(isOneOf ? '. Of them cascades ' : '. Of several '),
          part(
            'order',
            `the ${order.isLast ? 'last' : 'first'} by ${by?.ok ? describeField(model, by.value) : 'the order of their making'}`,
          ),
        ]
      : []),
    words('. '),
    ...precedenceParts(rule),
    ...paceParts(model, rule),
  ];
}

const ONLY = {
  empty: 'only where it is empty',
  oldValue: 'only where it still holds what was before',
} as const;

const sameWords = (model: Model, type: string, same: readonly string[]): string =>
  same.map((key) => fieldIn(model, type, key).name).join(' and ');

/** `its Loans`, `all Parts beneath it, at any depth`, `the Artefacts of its Loans`, `the other Loans of its Exhibition`, `its Lender`, `itself`. */
export function recipientsWords(
  model: Model,
  type: string,
  route: readonly Step[],
  isAllTheWay = false,
): string {
  if (isAllTheWay) return `all ${routeWords(model, type, route)} beneath it, at any depth`;
  switch (reachOf(model, type, route)) {
    case 'itself':
      return 'itself';
    case 'siblings':
      return `the other ${typeIn(model, type).plural} of its ${fieldIn(model, type, firstIn(route).link).name}`;
    case 'above': {
      const names = route.map(
        ({ link }, at) => fieldIn(model, typeAlong(model, type, route.slice(0, at)), link).name,
      );
      return `its ${names.join('’s ')}`;
    }
    default:
      return stepNames(model, type, route).length > 1
        ? `the ${routeWords(model, type, route)}`
        : `its ${routeWords(model, type, route)}`;
  }
}

/** `kept in step`, `at creation`, `when Stage becomes Open or Closes changes, where Title is not empty`. */
export function momentWords(
  model: Model,
  { type, moment }: Pick<Cascade, 'type' | 'moment'>,
  nameOf?: NameOf,
): string {
  if (moment === 'inStep') return 'kept in step';
  if (moment === 'atCreation') return 'as they are made or come under it';
  const tests = moment.tests.map((test) => changeWords(model, type, test, nameOf)).join(' or ');
  const where = moment.where ? typeCondition(model, type, moment.where, { usesRunContext: true }) : null;
  return `when ${tests}${where?.ok ? `, where ${describe(model, where.value, nameOf)}` : ''}`;
}

const CHANGES: Record<ChangeTest['kind'], string> = {
  changed: 'changes',
  became: 'becomes',
  stoppedBeing: 'stops being',
  rose: 'rises',
  fell: 'falls',
};

export const changeName = (kind: ChangeTest['kind']): string => CHANGES[kind];

function changeWords(model: Model, type: string, test: ChangeTest, nameOf?: NameOf): string {
  const field = model.field(type, test.field);
  const value = 'value' in test && field ? ` ${wireWords(field.type, test.value, nameOf)}` : '';
  return `${field?.name ?? test.field} ${CHANGES[test.kind]}${value}`;
}

const wireWords = (type: ValueType, wire: WireValue, nameOf?: NameOf): string => {
  const parsed = parseValue(type, wire);
  return parsed.ok ? displayValue(type, parsed.value, nameOf) : String(wire);
};

/** `from Coordinator`, `from Coordinator as it was before`, `by Stage`, `“With {title}”`, `emptied`, `as Open`. */
export function assignedWords(
  model: Model,
  { type, route }: Pick<Cascade, 'type' | 'route'>,
  value: AssignedValue,
  target: string,
  recipient: string = arrive(model, type, route) ?? type,
): string {
  const named = (key: string) => model.field(type, key)?.name ?? key;
  switch (value.kind) {
    case 'before':
      return `from ${named(value.field)} as it was before`;
    case 'map':
      return `by ${named(value.field)}`;
    case 'text':
      return `“${value.text}”`;
    case 'empty':
      return 'emptied';
    default: {
      const { expression } = value;
      if (expression.kind === 'constant') {
        const field = model.field(recipient, target);
        return field ? `as ${wireWords(field.type, expression.value)}` : 'as it says';
      }
      const worked = typeValue(model, type, expression, { isAlone: true, usesRunContext: true });
      if (worked.ok && worked.value.kind === 'ofRun') return `as ${OF_RUN[worked.value.what].words}`;
      if (worked.ok && worked.value.kind === 'constant' && worked.value.words)
        return `as ${worked.value.words}`;
      if (expression.kind === 'feel') return `from ${expression.text.trim()}`;
      const typed = expression.kind === 'field' ? typeFieldRead(model, type, expression) : null;
      return typed?.ok ? `from ${describeField(model, typed.value)}` : 'from an expression';
    }
  }
}

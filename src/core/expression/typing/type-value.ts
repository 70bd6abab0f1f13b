import { arrive, stepsUp } from '@/core/model';
import {
  bad,
  certain,
  conversion,
  firstIn,
  good,
  itemAt,
  KIND_NAMES,
  parseValue,
  type Result,
  type ValueType,
  type WireValue,
} from '@/core/values';
import { asNumber, combine, digitsOf, kindWords, MOST_PLACES, MOST_WHOLE } from './amounts';
import { type Expression, type Typed, YES_NO } from '@/core/syntax/expression';
import { typeExchange } from './type-exchange';
import {
  EXCHANGE,
  functionEntry,
  type FunctionName,
  KINDS_TAKEN,
  type Parameter,
} from '@/core/syntax/functions';
import { at, type Place, type Scope, type TypeNode } from './scope';
import { zoneOf } from './zone';

type Of<K extends Expression['kind']> = Extract<Expression, { kind: K }>;

/** A constant of its own kind, as one written in FEEL text, where another kind is wanted: a bare number as money, a text as an option. */
export function typeLiteral(value: WireValue, own: ValueType, wanted: ValueType | null): Result<Typed> {
  const parsed = parseValue(own, value);
  if (!parsed.ok) return parsed;
  const asOwn: Typed = { kind: 'constant', type: own, value: parsed.value };
  if (!wanted || wanted.kind === own.kind) return good(asOwn);
  const as = (input: WireValue): Result<Typed> => {
    const fitted = parseValue(wanted, input);
    return fitted.ok ? good({ kind: 'constant', type: wanted, value: fitted.value }) : fitted;
  };
  if (own.kind === 'number' && wanted.kind === 'money')
    return as({ amount: value as string, currency: wanted.currency });
  if (own.kind === 'number' && (wanted.kind === 'rating' || wanted.kind === 'serial')) return good(asOwn);
  if (own.kind === 'text' && ['longText', 'choice', 'person', 'link'].includes(wanted.kind)) return as(value);
  if (own.kind === 'text' && wanted.kind === 'choices') return as([value as string]);
  const hint = own.kind === 'text' && wanted.kind === 'date' ? ' Write date("2026-01-31").' : '';
  return bad(
    'expression.unlike',
    `Expected ${KIND_NAMES[wanted.kind]} here, found ${kindWords(own)}.${hint}`,
  );
}

/** A yes/no that may be empty counts as no where a test is wanted. */
export function asTest(node: Typed): Typed {
  const isTest = ['compare', 'presence', 'among', 'match', 'group', 'selection'].includes(node.kind);
  if (isTest || node.type.kind !== 'yesNo') return node;
  return {
    ...{ kind: 'compare', type: YES_NO, operator: '=', left: node },
    right: { kind: 'constant', type: YES_NO, value: true },
  };
}

export const isNothing = (node: Expression | Typed): boolean =>
  node.kind === 'constant' && node.value === null;

/** The one kind that several values have together; `null` where there is none. */
function together(a: ValueType, b: ValueType): ValueType | null {
  const [one, other] = [asNumber(a), asNumber(b)];
  if (one && other) {
    if (!one.isBare && !other.isBare && one.unit !== other.unit) return null;
    const unit = one.unit ?? other.unit;
    return {
      kind: 'number',
      scale: Math.max(one.scale, other.scale),
      ...(unit ? { unit } : {}),
      ...(one.isBare && other.isBare ? { isBare: true } : {}),
    };
  }
  const texts: readonly string[] = ['text', 'longText'];
  if (texts.includes(a.kind) && texts.includes(b.kind)) return a.kind === 'longText' ? a : b;
  if (a.kind === 'choice' && b.kind === 'choice') return conversion(a, b) ? b : conversion(b, a) ? a : null;
  if (a.kind === 'money' && b.kind === 'money') return a.currency === b.currency ? a : null;
  if (a.kind === 'link' && b.kind === 'link') return a.target === b.target ? a : null;
  return a.kind === b.kind ? a : null;
}

export function typeArithmetic(
  scope: Scope,
  node: Of<'arithmetic'>,
  place: Place,
  typeNode: TypeNode,
): Result<Typed> {
  const left = typeNode(scope, node.left, [...place, 'left'], null);
  if (!left.ok) return left;
  const right = typeNode(scope, node.right, [...place, 'right'], null);
  if (!right.ok) return right;
  const combined = combine(node.operator, left.value.type, right.value.type);
  if (!combined.ok) return at(place, combined);
  const { type, working } = combined.value;
  const typed: Typed = { ...node, type, working, left: left.value, right: right.value };
  return at(place, withinDigits(typed));
}

/** Refuses more digits than may be worked with exactly. */
function withinDigits(node: Typed): Result<Typed> {
  const { whole, places } = digitsOf(node);
  if (whole <= MOST_WHOLE && places <= MOST_PLACES) return good(node);
  return bad(
    'expression.digits',
    `This may come to ${whole} digits before the point and ${places} after it; at most ${MOST_WHOLE} and ${MOST_PLACES} are worked with. Round a part of it, as in round half up(…, 4).`,
  );
}

export function typeNegation(
  scope: Scope,
  node: Of<'negate'>,
  place: Place,
  typeNode: TypeNode,
): Result<Typed> {
  const operand = typeNode(scope, node.operand, [...place, 'operand'], null);
  if (!operand.ok) return operand;
  const { type } = operand.value;
  if (!asNumber(type) && type.kind !== 'money')
    return at(
      place,
      bad('expression.unlike', `Only numbers and money have a sign; this is ${kindWords(type)}.`),
    );
  return good({ kind: 'negate', type: asNumber(type) ?? type, operand: operand.value });
}

export function typeIf(
  scope: Scope,
  node: Of<'if'>,
  place: Place,
  wanted: ValueType | null,
  typeNode: TypeNode,
): Result<Typed> {
  const condition = typeNode(scope, node.condition, [...place, 'condition'], null);
  if (!condition.ok) return condition;
  if (condition.value.type.kind !== 'yesNo')
    return at(
      [...place, 'condition'],
      bad('expression.condition', `After “if” stands a test; this is ${kindWords(condition.value.type)}.`),
    );
  const branches = typeAlike(
    scope,
    [node.then, node.otherwise],
    (index) => [...place, index === 0 ? 'then' : 'otherwise'],
    wanted,
    typeNode,
  );
  if (!branches.ok) return branches;
  const { type, typed } = branches.value;
  return good({
    kind: 'if',
    type,
    condition: asTest(condition.value),
    then: firstIn(typed),
    otherwise: itemAt(typed, 1),
  });
}

interface Alike {
  readonly type: ValueType;
  readonly typed: readonly Typed[];
}

/** Types values that must be of one kind; `null` among them is empty, of the kind of the others. */
function typeAlike(
  scope: Scope,
  nodes: readonly Expression[],
  placeOf: (index: number) => Place,
  wanted: ValueType | null,
  typeNode: TypeNode,
): Result<Alike> {
  let type: ValueType | null = null;
  const found = new Map<number, Typed>();
  for (const [index, node] of nodes.entries()) {
    if (isNothing(node)) continue;
    const typed = typeNode(scope, node, placeOf(index), wanted);
    if (!typed.ok) return typed;
    const both: ValueType | null = type === null ? typed.value.type : together(type, typed.value.type);
    if (!both) {
      const message = `Expected ${kindWords(certain(type))} here as before, found ${kindWords(typed.value.type)}.`;
      return at(placeOf(index), bad('expression.unlike', message));
    }
    type = both;
    found.set(index, typed.value);
  }
  const known = type ?? wanted;
  if (!known)
    return at(
      placeOf(0),
      bad('expression.empty', 'Only null stands here, which is of no kind. Give a value.'),
    );
  const typed = nodes.map(
    (_, index) => found.get(index) ?? ({ kind: 'constant', type: known, value: null } as const),
  );
  return good({ type: known, typed });
}

export function typeCall(
  scope: Scope,
  node: Of<'call'>,
  place: Place,
  wanted: ValueType | null,
  typeNode: TypeNode,
): Result<Typed> {
  if (node.name === EXCHANGE) return typeExchange(scope, node, place, typeNode);
  const { parameters, gives, isInZone } = functionEntry(node.name);
  const least = parameters.filter(({ isOptional }) => !isOptional).length;
  const isRepeated = parameters.at(-1)?.isRepeated === true;
  const count = node.arguments.length;
  if (count < least || (!isRepeated && count > parameters.length)) {
    const takes = parameters
      .map(({ name, isOptional, isRepeated: more }) => (isOptional ? `${name}?` : more ? `${name}, …` : name))
      .join(', ');
    return at(
      place,
      bad(
        'expression.arguments',
        `Write ${node.name}(${takes}); found ${count} ${count === 1 ? 'argument' : 'arguments'}.`,
      ),
    );
  }
  if (isRepeated) {
    const alike = typeAlike(
      scope,
      node.arguments,
      (index) => [...place, 'arguments', index],
      wanted,
      typeNode,
    );
    if (!alike.ok) return alike;
    const wrong = checkTaken(node.name, firstIn(parameters), alike.value.type);
    if (wrong) return at(place, wrong);
    return good({ kind: 'call', type: alike.value.type, name: node.name, arguments: alike.value.typed });
  }
  const typed: Typed[] = [];
  for (const [index, argument] of node.arguments.entries()) {
    const where = [...place, 'arguments', index];
    const given = typeNode(scope, argument, where, null);
    if (!given.ok) return given;
    // Where a date is taken a moment is taken by its day.
    const isDay = given.value.type.kind === 'dateTime' && takesDay(node.name, itemAt(parameters, index));
    const one = isDay ? at(where, inZone(scope, 'civil date', given.value)) : given;
    if (!one.ok || (isDay && node.name === 'date')) return one;
    const wrong = checkArgument(node.name, itemAt(parameters, index), one.value);
    if (wrong) return at(where, wrong);
    typed.push(one.value);
  }
  if (isInZone) return at(place, inZone(scope, node.name, firstIn(typed)));
  const literal = typed.find((_, index) => itemAt(parameters, index).isLiteral);
  const places = literal?.kind === 'constant' ? Number(String(literal.value)) : 0;
  const type = gives(
    typed.map((one) => one.type),
    places,
  );
  return at(place, withinDigits({ kind: 'call', type, name: node.name, arguments: typed }));
}

const takesDay = (name: FunctionName, { takes }: Parameter): boolean => takes === 'date' || name === 'date';

/** A function of a moment that goes by the clocks of the workspace's time zone. */
function inZone({ model }: Scope, name: FunctionName, moment: Typed): Result<Typed> {
  const found = zoneOf(model);
  if (!found.ok) return found;
  const zone: Typed = { kind: 'constant', type: { kind: 'text' }, value: found.value };
  const type = functionEntry(name).gives([moment.type], 0);
  return good({ kind: 'call', type, name, arguments: [moment, zone] });
}

function checkTaken(name: string, { takes }: Parameter, type: ValueType): Result<never> | null {
  const kinds = KINDS_TAKEN[takes];
  if (!kinds || kinds.includes(type.kind)) return null;
  return bad('expression.unlike', `${name}(…) takes ${takes} here; this is ${kindWords(type)}.`);
}

function checkArgument(name: string, parameter: Parameter, typed: Typed): Result<never> | null {
  const taken = checkTaken(name, parameter, typed.type);
  if (taken) return taken;
  const scale = asNumber(typed.type)?.scale ?? 0;
  if (parameter.takes === 'whole number' && scale > 0)
    return bad(
      'expression.unlike',
      `${name}(…) takes a whole number here; this one may have ${scale} places. Round it first.`,
    );
  if (!parameter.isLiteral) return null;
  const places = typed.kind === 'constant' ? Number(String(typed.value)) : -1;
  if (Number.isInteger(places) && places >= 0 && places <= 20) return null;
  return bad(
    'expression.literal',
    `${name}(…) takes its ${parameter.name} as a number from 0 to 20, written as one.`,
  );
}

const GIVES_ORDERED = ['number', 'rating', 'money', 'date', 'dateTime', 'choice'];
const GATHERED: Record<Of<'gather'>['aggregate'], readonly string[] | null> = {
  count: null,
  countDistinct: null,
  sum: ['number', 'rating', 'money'],
  average: ['number', 'rating', 'money'],
  median: ['number', 'rating', 'money'],
  deviation: ['number', 'rating', 'money'],
  minimum: GIVES_ORDERED,
  maximum: GIVES_ORDERED,
  all: ['yesNo'],
  any: ['yesNo'],
};

export function typeGather(
  scope: Scope,
  node: Of<'gather'>,
  place: Place,
  typeNode: TypeNode,
): Result<Typed> {
  if (scope.isAlone)
    return at(
      place,
      bad(
        'expression.gather',
        'Records beneath can’t be gathered here. Make it a rule of its own, and read its field.',
      ),
    );
  const { model, type } = scope;
  const member = arrive(model, type, [...stepsUp(node.up), ...node.down]);
  if (member === undefined)
    return at(place, bad('expression.route', 'These records don’t lie beneath this one. Choose others.'));
  const inner: Scope = { ...scope, type: member, isAlone: true, usesRunContext: false };
  const value = node.value ? typeNode(inner, node.value, [...place, 'value'], null) : null;
  if (value && !value.ok) return value;
  const condition = node.condition ? typeNode(inner, node.condition, [...place, 'condition'], null) : null;
  if (condition && !condition.ok) return condition;
  const of = value?.value ?? null;
  const kinds = GATHERED[node.aggregate];
  if (kinds && of && !kinds.includes(of.type.kind))
    return at(
      [...place, 'value'],
      bad(
        'expression.unlike',
        `Expected ${kinds.map((kind) => KIND_NAMES[kind as keyof typeof KIND_NAMES]).join(', ')} here; this is ${kindWords(of.type)}.`,
      ),
    );
  if (condition && condition.value.type.kind !== 'yesNo')
    return at(
      [...place, 'condition'],
      bad('expression.condition', `In [ … ] stands a test; this is ${kindWords(condition.value.type)}.`),
    );
  const isTest = node.aggregate === 'all' || node.aggregate === 'any';
  const typed: Typed = {
    ...{ kind: 'gather', aggregate: node.aggregate, from: type, member, up: node.up, down: node.down },
    type: gatheredType(node.aggregate, of?.type ?? null),
    value: of && isTest ? asTest(of) : of,
    condition: condition ? asTest(condition.value) : null,
  };
  return at(place, withinDigits(typed));
}

function gatheredType(aggregate: Of<'gather'>['aggregate'], of: ValueType | null): ValueType {
  if (aggregate === 'all' || aggregate === 'any') return YES_NO;
  if (aggregate === 'count' || aggregate === 'countDistinct' || of === null)
    return { kind: 'number', scale: 0 };
  const number = asNumber(of);
  if (['average', 'median', 'deviation'].includes(aggregate) && number) return { ...number, scale: 20 };
  return aggregate === 'sum' && number ? number : of;
}

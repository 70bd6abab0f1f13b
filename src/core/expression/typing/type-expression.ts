import { follow, type Model, type Selection, typeIn } from '@/core/model';
import {
  bad,
  good,
  KIND_NAMES,
  parseValue,
  relativeDay,
  relativeMoment,
  relativeWords,
  type Result,
  unreachable,
  type ValueType,
  type WireValue,
} from '@/core/values';
import {
  type Expression,
  MOST_DEPTH,
  MOST_NODES,
  type RunReading,
  type Typed,
  type TypedField,
  YES_NO,
} from '@/core/syntax/expression';
import type { Span } from '@/core/expression/feel/feel-text';
import { typeAmong, typeComparison, typeMatch } from './type-test';
import { OF_RUN } from '@/core/expression/of-run';
import { partsOf } from '@/core/expression/parts';
import { prefixed } from '@/core/expression/prefixed';
import { readFeel } from '@/core/expression/feel/read-feel';
import { at, type Place, type Scope } from './scope';
import {
  asTest,
  typeArithmetic,
  typeCall,
  typeGather,
  typeIf,
  typeLiteral,
  typeNegation,
} from './type-value';
import { zoneOf } from './zone';

/**
 * Types a condition on records of `type`: every field must exist, every operator take its kinds, every constant fit what
 * it is compared with. Answers the typed tree, or the first problem with its place in the tree (`of.1.right`).
 */
export function typeCondition(
  model: Model,
  type: string,
  condition: Expression,
  {
    within = [],
    usesRunContext = false,
  }: { readonly within?: readonly string[]; readonly usesRunContext?: RunReading } = {},
): Result<Typed> {
  const typed = typeAll({ model, type, within, usesRunContext, isAlone: true }, condition, null);
  if (!typed.ok) return typed;
  if (typed.value.type.kind === 'yesNo') return good(asTest(typed.value));
  return at(
    [],
    bad(
      'expression.condition',
      `A condition must be true or false; this is ${KIND_NAMES[typed.value.type.kind]}.`,
    ),
  );
}

/** How many nodes there are; more than may be where they are nested too deeply. */
function countNodes(node: Expression, depth: number): number {
  if (depth > MOST_DEPTH) return MOST_NODES + 1;
  return partsOf(node).reduce((sum, [, part]) => sum + countNodes(part, depth + 1), 1);
}

/**
 * Types an expression that is worked out for records of `type`, as the value of a rule: it may gather the records beneath, unless it
 * stands alone. `wanted` gives its kind to what has none of its own.
 */
export const typeValue = (
  model: Model,
  type: string,
  expression: Expression,
  {
    wanted = null,
    isAlone = false,
    usesRunContext = false,
  }: {
    readonly wanted?: ValueType | null;
    readonly isAlone?: boolean;
    readonly usesRunContext?: RunReading;
  } = {},
): Result<Typed> => typeAll({ model, type, isAlone, usesRunContext }, expression, wanted);

function typeAll(scope: Scope, expression: Expression, wanted: ValueType | null): Result<Typed> {
  if (countNodes(expression, 0) > MOST_NODES)
    return bad(
      'expression.size',
      `This has more than ${MOST_NODES} parts, or is nested deeper than ${MOST_DEPTH}. Split it over several fields.`,
    );
  return typeNode(scope, expression, [], wanted);
}

/** FEEL text: read, typed, and problems told at their place in the text. */
function typeFeel(
  scope: Scope,
  { text }: Extract<Expression, { kind: 'feel' }>,
  wanted: ValueType | null,
): Result<Typed> {
  const read = readFeel(scope.model, scope.type, text);
  if (!read.ok) return read;
  const { expression, spans } = read.value;
  const typed = typeAll(scope, expression, wanted);
  if (typed.ok) return typed;
  const { place: _within, ...problem } = typed.problem;
  const span = problem.data?.from === undefined ? spanAt(expression, typed.problem.place ?? '', spans) : {};
  return { ok: false, problem: { ...problem, data: { ...problem.data, ...span } } };
}

/** Where in the text the part at a place of the tree was written; of one that was made, where it was made from. */
function spanAt(root: Expression, place: string, spans: ReadonlyMap<Expression, Span>): Span {
  let at: Expression = root;
  let found = spans.get(root) ?? { from: 0, to: 1 };
  let rest = place;
  while (rest !== '') {
    const next = partsOf(at).find(([step]) => `${rest}.`.startsWith(`${step.join('.')}.`));
    if (!next) break;
    rest = rest.slice(next[0].join('.').length + 1);
    [, at] = next;
    found = spans.get(at) ?? found;
  }
  return found;
}

/** FEEL text replaced by what it stands for. */
function withoutText(model: Model, type: string, node: Expression): Result<Expression> {
  if (node.kind === 'feel') {
    const read = readFeel(model, type, node.text);
    return read.ok ? good(read.value.expression) : read;
  }
  if (node.kind !== 'group') return good(node);
  const of: Expression[] = [];
  for (const part of node.of) {
    const read = withoutText(model, type, part);
    if (!read.ok) return read;
    of.push(read.value);
  }
  return good({ ...node, of });
}

function typeNode(scope: Scope, node: Expression, place: Place, wanted: ValueType | null): Result<Typed> {
  switch (node.kind) {
    case 'constant':
      if (node.type) return at(place, typeLiteral(node.value, node.type, wanted));
      return at(place, typeConstant(node.value, wanted));
    case 'feel':
      return at(place, typeFeel(scope, node, wanted));
    case 'arithmetic':
      return typeArithmetic(scope, node, place, typeNode);
    case 'negate':
      return typeNegation(scope, node, place, typeNode);
    case 'if':
      return typeIf(scope, node, place, wanted, typeNode);
    case 'call':
      return typeCall(scope, node, place, wanted, typeNode);
    case 'gather':
      return typeGather(scope, node, place, typeNode);
    case 'field':
      return at(place, typeField(scope, node));
    case 'compare':
      return typeComparison(scope, node, place, typeNode);
    case 'presence': {
      const operand = typeNode(scope, node.operand, [...place, 'operand'], null);
      return operand.ok ? good({ ...node, type: YES_NO, operand: operand.value }) : operand;
    }
    case 'among':
      return typeAmong(scope, node, place, typeNode);
    case 'match':
      return typeMatch(scope, node, place, typeNode);
    case 'group':
      return typeGroup(scope, node, place);
    case 'day':
      return at(place, typeDay(scope, node, wanted));
    case 'selection':
      return typeSelection(scope, node, place);
    case 'ofRun':
      return at(place, typeOfRun(scope, node));
    default:
      return unreachable(node);
  }
}

function typeConstant(value: WireValue, wanted: ValueType | null): Result<Typed> {
  if (!wanted)
    return bad(
      'expression.constant',
      'A constant needs a field to be compared with. Put the field on the left.',
    );
  const parsed = parseValue(wanted, value);
  return parsed.ok ? good({ kind: 'constant', type: wanted, value: parsed.value }) : parsed;
}

function typeDay(
  { model }: Scope,
  node: Extract<Expression, { kind: 'day' }>,
  wanted: ValueType | null,
): Result<Typed> {
  if (model.settledDay === null)
    return bad('expression.day', 'No day is known here for relative dates to count from. Enter a date.');
  if (node.unit === 'hour' && wanted?.kind === 'dateTime') {
    const zone = zoneOf(model);
    if (!zone.ok) return zone;
    const moment = relativeMoment(zone.value, model.settledDay, node);
    if (!moment.ok) return moment;
    return good({ kind: 'constant', type: wanted, value: moment.value, words: relativeWords(node) });
  }
  const day = relativeDay(model.settledDay, node);
  if (!day.ok) return day;
  return good({ kind: 'constant', type: { kind: 'date' }, value: day.value, words: relativeWords(node) });
}

function typeOfRun(
  { usesRunContext }: Scope,
  { kind, what }: Extract<Expression, { kind: 'ofRun' }>,
): Result<Typed> {
  if (usesRunContext === (what === 'me' ? 'me' : true)) return good({ kind, what, type: OF_RUN[what].type });
  return bad(
    'expression.run',
    what === 'me' || usesRunContext === 'me'
      ? 'me() is whoever looks, and stands in what a role sees, where neither now() nor person() does: today() moves with the settled day. In a rule that cascades at a change, person() is who makes it.'
      : what === 'moment'
        ? 'What holds can’t depend on the hour, which passes by itself: now() stands where a rule cascades at a change, or makes something. Use today(), which moves with the settled day.'
        : 'What holds can’t depend on who looks or saves: person() stands where a rule cascades at a change, or makes something.',
  );
}

/** Most selections that may build upon each other. */
const MOST_WITHIN = 5;

function typeSelection(
  scope: Scope,
  node: Extract<Expression, { kind: 'selection' }>,
  place: Place,
): Result<Typed> {
  const { model, type, within = [] } = scope;
  const selection = model.selection(node.selection);
  if (!selection)
    return at(
      place,
      bad(
        'expression.selection',
        `There is no selection “${node.selection}”. It may have been removed; choose another.`,
      ),
    );
  const reached = follow(model, type, node.route);
  if (reached !== selection.type) {
    const [wanted, found] = [model.type(selection.type)?.plural, reached && typeIn(model, reached).plural];
    const message = `“${selection.name}” is a selection of ${wanted ?? 'another type'}, not of ${found ?? 'what this route leads to'}. Choose another.`;
    return at(place, bad('expression.selection', message));
  }
  if (within.includes(node.selection) || within.length >= MOST_WITHIN) {
    const chain = [...within, node.selection]
      .map((key) => `“${model.selection(key)?.name ?? key}”`)
      .join(' → ');
    return at(
      place,
      bad(
        'expression.circle',
        `Selections build upon each other without an end: ${chain}. Change one of them.`,
      ),
    );
  }
  const inner = { ...scope, usesRunContext: false, within: [...within, node.selection] };
  const condition = withoutText(model, selection.type, selection.condition);
  const of = condition.ok
    ? typeNode(inner, onRoute(model, { ...selection, condition: condition.value }, node.route), [], null)
    : condition;
  if (!of.ok) {
    const message = `The selection “${selection.name}” can’t be used: ${of.problem.message}`;
    return at(place, bad(of.problem.code, message));
  }
  const { operator, route } = node;
  return good({
    kind: 'selection',
    type: YES_NO,
    operator,
    from: type,
    route,
    name: selection.name,
    of: asTest(of.value),
  });
}

/** A selection's condition, read up a route: where there is no record, none is in the selection. */
function onRoute(model: Model, { type, condition }: Selection, route: readonly string[]): Expression {
  if (route.length === 0) return condition;
  // Every record has a title.
  const title: Expression = { kind: 'field', route, field: typeIn(model, type).title };
  const isThere: Expression = { kind: 'presence', operator: 'isNotEmpty', operand: title };
  return { kind: 'group', operator: 'all', of: [isThere, prefixed(condition, route)] };
}

function typeField({ model, type }: Scope, node: Extract<Expression, { kind: 'field' }>): Result<TypedField> {
  const owner = follow(model, type, node.route);
  if (owner === undefined) {
    return bad(
      'expression.route',
      `“${node.route.join(' → ')}” isn’t a route upward from “${typeIn(model, type).name}”. Choose its links one by one.`,
    );
  }
  const field = model.field(owner, node.field);
  if (!field)
    return bad(
      'expression.field',
      `“${typeIn(model, owner).name}” has no field “${node.field}”. Choose one that exists.`,
    );
  return good({ ...node, type: field.type, from: type, owner });
}

function typeGroup(scope: Scope, node: Extract<Expression, { kind: 'group' }>, place: Place): Result<Typed> {
  const of: Typed[] = [];
  for (const [index, part] of node.of.entries()) {
    const typed = typeNode(scope, part, [...place, 'of', index], null);
    if (!typed.ok) return typed;
    if (typed.value.type.kind !== 'yesNo') {
      return at([...place, 'of', index], bad('expression.condition', 'Each part of a group must be a test.'));
    }
    of.push(asTest(typed.value));
  }
  return good({ kind: 'group', type: YES_NO, operator: node.operator, of });
}

/** Types a field read on a record of `type` or up its links, for places that want a value rather than a condition. */
export function typeFieldRead(
  model: Model,
  type: string,
  node: Extract<Expression, { kind: 'field' }>,
): Result<TypedField> {
  return typeField({ model, type }, node);
}

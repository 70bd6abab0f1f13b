import { bad, good, KIND_NAMES, parseValue, type Result, type Value, type ValueType } from '@/core/values';
import { asNumber } from './amounts';
import { type Expression, type Typed, YES_NO } from '@/core/syntax/expression';
import { type Operator, operatorsFor, operatorWords } from '@/core/expression/operators';
import { at, type Place, type Scope, type TypeNode } from './scope';
import { comparedWithDay } from './type-moment';

const refuseOperator = (operator: Operator, type: ValueType): Result<never> =>
  bad(
    'expression.operator',
    `A field of kind ${KIND_NAMES[type.kind]} can’t be tested with “${operatorWords(operator, type.kind)}”. It takes: ${operatorsFor(
      type.kind,
    )
      .map((entry) => operatorWords(entry.operator, type.kind))
      .join(', ')}.`,
  );

const takes = (operator: Operator, type: ValueType): boolean =>
  operatorsFor(type.kind).some((entry) => entry.operator === operator);

/** A test against another value. */
export function typeComparison(
  scope: Scope,
  node: Extract<Expression, { kind: 'compare' }>,
  place: Place,
  typeNode: TypeNode,
): Result<Typed> {
  const left = typeNode(scope, node.left, [...place, 'left'], null);
  if (!left.ok) return left;
  if (!takes(node.operator, left.value.type))
    return at(place, refuseOperator(node.operator, left.value.type));
  const isDate = node.right.kind === 'constant' && node.right.type?.kind === 'date';
  const wanted = isDate && left.value.type.kind === 'dateTime' ? null : left.value.type;
  const right = typeNode(scope, node.right, [...place, 'right'], wanted);
  if (!right.ok) return right;
  if (right.value.kind === 'constant' && right.value.value === null) {
    const message =
      'Enter what to compare with. To ask whether something stands there, use “is empty” or “is not empty”.';
    return at([...place, 'right'], bad('expression.empty', message));
  }
  const ofDay = comparedWithDay(scope.model, node, left.value, right.value);
  if (ofDay) return at([...place, 'right'], ofDay);
  const unlike = unlikeness(left.value.type, right.value.type);
  if (unlike) return at(place, bad('expression.unlike', unlike));
  return good({ ...node, type: YES_NO, left: left.value, right: right.value });
}

/** Why two types can't be compared, or null when they can. */
function unlikeness(left: ValueType, right: ValueType): string | null {
  const [one, other] = [asNumber(left), asNumber(right)];
  if (one && other)
    return one.isBare || other.isBare || one.unit === other.unit
      ? null
      : `A number in ${one.unit ?? 'no unit'} can’t be compared with one in ${other.unit ?? 'no unit'}.`;
  if (isText(left) && isText(right)) return null;
  if (left.kind !== right.kind)
    return `A ${KIND_NAMES[left.kind]} can’t be compared with a ${KIND_NAMES[right.kind]}. Compare like with like.`;
  if (left.kind === 'money' && right.kind === 'money' && left.currency !== right.currency) {
    return `${left.currency} can’t be compared with ${right.currency} without a rate.`;
  }
  if (left.kind === 'link' && right.kind === 'link' && left.target !== right.target)
    return 'Links to different types can’t be compared.';
  if (left.kind === 'choice' && right.kind === 'choice' && !sameOptions(left.options, right.options)) {
    return 'Choices over different options can’t be compared.';
  }
  return null;
}

const isText = ({ kind }: ValueType): boolean => kind === 'text' || kind === 'longText';

const sameOptions = (a: readonly { key: string }[], b: readonly { key: string }[]): boolean =>
  a.length === b.length && a.every((option, index) => option.key === b[index]?.key);

/** A test against several values. */
export function typeAmong(
  scope: Scope,
  node: Extract<Expression, { kind: 'among' }>,
  place: Place,
  typeNode: TypeNode,
): Result<Typed> {
  const operand = typeNode(scope, node.operand, [...place, 'operand'], null);
  if (!operand.ok) return operand;
  if (!takes(node.operator, operand.value.type))
    return at(place, refuseOperator(node.operator, operand.value.type));
  const options: Exclude<Value, null>[] = [];
  for (const [index, option] of node.options.entries()) {
    const parsed = parseValue(operand.value.type, option);
    if (!parsed.ok) return at([...place, 'options', index], parsed);
    if (parsed.value !== null) options.push(parsed.value);
  }
  if (options.length === 0)
    return at(place, bad('expression.options', 'A list to choose from is empty. Add at least one value.'));
  return good({ ...node, type: YES_NO, operand: operand.value, options });
}

/** A test of what is within. */
export function typeMatch(
  scope: Scope,
  node: Extract<Expression, { kind: 'match' }>,
  place: Place,
  typeNode: TypeNode,
): Result<Typed> {
  const operand = typeNode(scope, node.operand, [...place, 'operand'], null);
  if (!operand.ok) return operand;
  const { type } = operand.value;
  if (!takes(node.operator, type)) return at(place, refuseOperator(node.operator, type));
  const wanted: ValueType =
    type.kind === 'choices' ? { kind: 'choice', options: type.options } : { kind: 'longText' };
  const part = typeNode(scope, node.part, [...place, 'part'], wanted);
  if (!part.ok) return part;
  if (part.value.kind === 'constant' && part.value.value === null) {
    return at([...place, 'part'], bad('expression.empty', 'Enter what it should contain.'));
  }
  const fits = type.kind === 'choices' ? part.value.type.kind === 'choice' : isText(part.value.type);
  if (!fits)
    return at(
      [...place, 'part'],
      bad('expression.unlike', `Expected ${KIND_NAMES[wanted.kind]} here. Choose a field of that kind.`),
    );
  return good({ ...node, type: YES_NO, operand: operand.value, part: part.value });
}

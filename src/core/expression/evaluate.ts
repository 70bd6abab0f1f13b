import { compareValues, sameValue, unreachable, type Value } from '../values';
import type { CompareOperator, Typed, TypedField } from './expression';

/** The value stands in a record that isn't loaded: nothing can be said about it. */
export const OUTSIDE = Symbol('outside this family');
export type Outside = typeof OUTSIDE;

/** Gives the value of a field of the record at hand, or up a route from it; a broken route reads as empty. */
export type ReadField = (field: TypedField) => Value | Outside;

/**
 * The one place that works out an expression. Never throws on data: answers a value, or `OUTSIDE` when that value
 * depends on a record that isn't loaded.
 */
export function evaluate(node: Typed, read: ReadField): Value | Outside {
  switch (node.kind) {
    case 'constant':
      return node.value;
    case 'field':
      return read(node);
    case 'compare':
      return both(evaluate(node.left, read), evaluate(node.right, read), (left, right) =>
        comparison(node, left, right),
      );
    case 'presence': {
      const operand = evaluate(node.operand, read);
      return operand === OUTSIDE ? OUTSIDE : (operand === null) === (node.operator === 'isEmpty');
    }
    case 'among': {
      const operand = evaluate(node.operand, read);
      if (operand === OUTSIDE) return OUTSIDE;
      return node.options.some((option) => sameValue(option, operand)) === (node.operator === 'isAmong');
    }
    case 'match':
      return both(evaluate(node.operand, read), evaluate(node.part, read), (operand, part) =>
        matches(node.operator, operand, part),
      );
    case 'group':
      return group(node, read);
    default:
      return unreachable(node);
  }
}

type Present = Exclude<Value, null>;

const both = (
  left: Value | Outside,
  right: Value | Outside,
  test: (left: Present, right: Present) => boolean,
): boolean | Outside => {
  if (left === OUTSIDE || right === OUTSIDE) return OUTSIDE;
  return left !== null && right !== null && test(left, right);
};

const ORDER_TESTS: Record<Exclude<CompareOperator, '=' | '!='>, (order: number) => boolean> = {
  '<': (order) => order < 0,
  '<=': (order) => order <= 0,
  '>': (order) => order > 0,
  '>=': (order) => order >= 0,
};

function comparison(node: Extract<Typed, { kind: 'compare' }>, left: Present, right: Present): boolean {
  if (node.operator === '=') return sameValue(left, right);
  if (node.operator === '!=') return !sameValue(left, right);
  return ORDER_TESTS[node.operator](compareValues(node.left.type, left, right));
}

function matches(operator: 'contains' | 'startsWith', operand: Present, part: Present): boolean {
  if (Array.isArray(operand)) return operand.includes(part);
  return operator === 'contains'
    ? (operand as string).includes(part as string)
    : (operand as string).startsWith(part as string);
}

/** A part that decides the group does so even when another part is outside. */
function group(node: Extract<Typed, { kind: 'group' }>, read: ReadField): boolean | Outside {
  const deciding = node.operator !== 'all'; // a true part decides any and none, a false part decides all
  let outside = false;
  for (const part of node.of) {
    const verdict = evaluate(part, read);
    if (verdict === OUTSIDE) outside = true;
    else if (verdict === deciding) return node.operator === 'any';
  }
  return outside ? OUTSIDE : node.operator !== 'any';
}

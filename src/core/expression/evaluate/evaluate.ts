import { compareValues, sameValue, unreachable, type Value } from '@/core/values';
import { arithmetic, call, choice, gathering, negation } from './evaluate-value';
import { exchanging } from './exchange';
import type { CompareOperator, Typed } from '@/core/syntax/expression';
import { type Evaluator, Failure, isNothingKnown, OUTSIDE, type ReadField, type Worked } from './worked';

const ready = new WeakMap<Typed, Evaluator>();

/**
 * The one place that works out an expression, made ready once for each. Never throws on data: answers a value, a failure, or `OUTSIDE`
 * when that value depends on a record that isn't loaded. An operator whose operand fails fails too; a branch that isn't taken doesn't
 * matter, nor does a part of a group that another part decides.
 */
export function evaluatorOf(node: Typed): Evaluator {
  let known = ready.get(node);
  if (!known) ready.set(node, (known = makeReady(node)));
  return known;
}

/** Works out an expression for one record. */
export const evaluate = (node: Typed, read: ReadField): Worked =>
  evaluatorOf(node)(null, (_, field) => read(field));

function makeReady(node: Typed): Evaluator {
  switch (node.kind) {
    case 'constant':
      return () => node.value;
    case 'field':
      return (at, read) => read(at, node);
    case 'compare':
      return comparison(node);
    case 'presence': {
      const operand = evaluatorOf(node.operand);
      const isEmptyWanted = node.operator === 'isEmpty';
      return (at, read, beneath) => {
        const value = operand(at, read, beneath);
        return isNothingKnown(value) ? value : (value === null) === isEmptyWanted;
      };
    }
    case 'among': {
      const operand = evaluatorOf(node.operand);
      const isAmongWanted = node.operator === 'isAmong';
      return (at, read, beneath) => {
        const value = operand(at, read, beneath);
        if (isNothingKnown(value)) return value;
        return node.options.some((option) => sameValue(option, value)) === isAmongWanted;
      };
    }
    case 'match':
      return both(node.operand, node.part, (operand, part) => matches(node.operator, operand, part));
    case 'group':
      return group(node);
    case 'selection': {
      const inside = evaluatorOf(node.of);
      const isInWanted = node.operator === 'isIn';
      return (at, read, beneath) => {
        const verdict = inside(at, read, beneath);
        return isNothingKnown(verdict) ? verdict : (verdict === true) === isInWanted;
      };
    }
    case 'arithmetic':
      return arithmetic(node, evaluatorOf);
    case 'negate':
      return negation(node, evaluatorOf);
    case 'if':
      return choice(node, evaluatorOf);
    case 'call':
      return call(node, evaluatorOf);
    case 'gather':
      return gathering(node, evaluatorOf);
    case 'exchange':
      return exchanging(node, evaluatorOf);
    case 'ofRun':
      // In a run it is a constant (`inRun`).
      throw new RangeError('Only a run says who makes a change, and when');
    default:
      return unreachable(node);
  }
}

type Present = Exclude<Value, null>;

/** A test of two values: false where one is empty. */
function both(left: Typed, right: Typed, test: (left: Present, right: Present) => boolean): Evaluator {
  const [first, second] = [evaluatorOf(left), evaluatorOf(right)];
  return (at, read, beneath) => {
    const a = first(at, read, beneath);
    if (isNothingKnown(a)) return a;
    const b = second(at, read, beneath);
    if (isNothingKnown(b)) return b;
    return a !== null && b !== null && test(a, b);
  };
}

const ORDER_TESTS: Record<Exclude<CompareOperator, '=' | '!='>, (order: number) => boolean> = {
  '<': (order) => order < 0,
  '<=': (order) => order <= 0,
  '>': (order) => order > 0,
  '>=': (order) => order >= 0,
};

function comparison(node: Extract<Typed, { kind: 'compare' }>): Evaluator {
  const { left, right, operator } = node;
  if (operator === '=' && right.kind === 'constant' && typeof right.value === 'string') {
    // What most conditions are: a choice, a text, a date or a link that is a certain one. Empty is never it.
    const operand = evaluatorOf(left);
    const wanted = right.value;
    return (at, read, beneath) => {
      const value = operand(at, read, beneath);
      return isNothingKnown(value) ? value : value === wanted;
    };
  }
  if (operator === '=') return both(left, right, sameValue);
  if (operator === '!=') return both(left, right, (a, b) => !sameValue(a, b));
  const test = ORDER_TESTS[operator];
  return both(left, right, (a, b) => test(compareValues(left.type, a, b)));
}

function matches(operator: 'contains' | 'startsWith', operand: Present, part: Present): boolean {
  if (Array.isArray(operand)) return operand.includes(part);
  return operator === 'contains'
    ? (operand as string).includes(part as string)
    : (operand as string).startsWith(part as string);
}

/** A part that decides the group does so even when another part is outside, or fails. */
function group(node: Extract<Typed, { kind: 'group' }>): Evaluator {
  const deciding = node.operator !== 'all'; // a true part decides any and none, a false part decides all
  const isAny = node.operator === 'any';
  const parts = node.of.map(evaluatorOf);
  return (at, read, beneath) => {
    let unknown: typeof OUTSIDE | Failure | null = null;
    for (const part of parts) {
      const verdict = part(at, read, beneath);
      if (verdict === OUTSIDE) unknown = OUTSIDE;
      else if (verdict instanceof Failure) unknown ??= verdict;
      else if (verdict === deciding) return isAny;
    }
    return unknown ?? !isAny;
  };
}

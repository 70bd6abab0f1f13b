import type { CompareOperator, Typed, TypedField } from '@/core/expression';
import type { ReactingCascade, CompiledTest } from '@/core/rules';
import { compareValues, sameValue, type Value } from '@/core/values';

/** A test of one field that must hold, as a condition says it. */
interface Must {
  readonly field: TypedField;
  readonly test:
    | { readonly kind: 'empty' | 'notEmpty' }
    | { readonly kind: 'among'; readonly options: readonly Value[] }
    | { readonly kind: 'notAmong'; readonly options: readonly Value[] }
    | { readonly kind: 'bound'; readonly operator: Bound; readonly value: Value };
}

type Bound = Extract<CompareOperator, '<' | '<=' | '>' | '>='>;

/**
 * Whether two conditions on one record can be seen not to hold both: a test that the one needs leaves nothing for one that the other needs.
 * What can't be seen so is taken as possible. `null` always holds.
 */
export function cannotBothHold(one: Typed | null, other: Typed | null): boolean {
  const [needs, others] = [mustsOf(one), mustsOf(other)];
  return needs.some((a) => others.some((b) => isSameField(a.field, b.field) && isApart(a, b)));
}

const isSameField = (a: TypedField, b: TypedField): boolean =>
  a.owner === b.owner && a.field === b.field && a.route.join('.') === b.route.join('.');

function mustsOf(node: Typed | null): Must[] {
  if (!node) return [];
  if (node.kind === 'group') return groupMusts(node);
  if (node.kind === 'selection') return node.operator === 'isIn' ? mustsOf(node.of) : [];
  if (node.kind === 'presence' && node.operand.kind === 'field')
    return [{ field: node.operand, test: { kind: node.operator === 'isEmpty' ? 'empty' : 'notEmpty' } }];
  if (node.kind === 'among' && node.operand.kind === 'field') {
    const kind = node.operator === 'isAmong' ? 'among' : 'notAmong';
    return [{ field: node.operand, test: { kind, options: node.options } }];
  }
  if (node.kind !== 'compare' || node.left.kind !== 'field' || node.right.kind !== 'constant') return [];
  const { left: field, operator } = node;
  const { value } = node.right;
  if (operator === '=') return [{ field, test: { kind: 'among', options: [value] } }];
  // Unlike “is not among”, a comparison doesn't hold of an empty value.
  if (operator === '!=')
    return [
      { field, test: { kind: 'notAmong', options: [value] } },
      { field, test: { kind: 'notEmpty' } },
    ];
  return [{ field, test: { kind: 'bound', operator, value } }];
}

/** All must hold; of any of several, what they say of one field together. */
function groupMusts({ operator, of }: Extract<Typed, { kind: 'group' }>): Must[] {
  if (operator === 'none') return [];
  if (operator === 'all' || of.length === 1) return of.flatMap(mustsOf);
  const options = of.flatMap((part) => {
    const [must, ...more] = mustsOf(part);
    return must?.test.kind === 'among' && more.length === 0
      ? [{ field: must.field, options: must.test.options }]
      : [];
  });
  const [first] = options;
  if (!first || options.length < of.length) return [];
  if (!options.every(({ field }) => isSameField(field, first.field))) return [];
  return [{ field: first.field, test: { kind: 'among', options: options.flatMap((one) => one.options) } }];
}

/** Whether no value passes both tests. */
function isApart(a: Must, b: Must): boolean {
  if (a.test.kind === 'empty') return b.test.kind !== 'empty' && b.test.kind !== 'notAmong';
  if (b.test.kind === 'empty') return isApart(b, a);
  if (a.test.kind === 'among') return a.test.options.every((option) => !passes(b, option));
  if (b.test.kind === 'among') return isApart(b, a);
  if (a.test.kind !== 'bound' || b.test.kind !== 'bound') return false;
  const [up, down] = a.test.operator.startsWith('>') ? [a.test, b.test] : [b.test, a.test];
  if (!up.operator.startsWith('>') || !down.operator.startsWith('<')) return false;
  const order = compare(a.field, up.value, down.value);
  return order > 0 || (order === 0 && (up.operator === '>' || down.operator === '<'));
}

function passes({ field, test }: Must, value: Value): boolean {
  switch (test.kind) {
    case 'empty':
      return value === null;
    case 'notEmpty':
      return value !== null;
    case 'among':
      return test.options.some((option) => sameValue(option, value));
    case 'notAmong':
      return !test.options.some((option) => sameValue(option, value));
    default: {
      if (value === null) return false;
      const order = compare(field, value, test.value);
      return { '<': order < 0, '<=': order <= 0, '>': order > 0, '>=': order >= 0 }[test.operator];
    }
  }
}

const compare = ({ type }: TypedField, a: Value, b: Value): number =>
  compareValues(type, a as Exclude<Value, null>, b as Exclude<Value, null>);

/**
 * Whether two rules that cascade to one field can be seen never to do so to one record in one run: their conditions on the record that takes
 * it can't both hold, or both go the same way down from one record, of which they ask what can't both be.
 */
export function cannotBothCascade(a: ReactingCascade, b: ReactingCascade): boolean {
  if (cannotBothHold(a.condition, b.condition)) return true;
  const isOneWay = (rule: ReactingCascade) => rule.route.every(({ direction }) => direction === 'down');
  if (a.source !== b.source || JSON.stringify(a.route) !== JSON.stringify(b.route)) return false;
  if (!isOneWay(a) || a.moment.kind !== 'onChange' || b.moment.kind !== 'onChange') return false;
  const [one, other] = [a.moment, b.moment];
  return (
    cannotBothHold(one.where, other.where) ||
    one.tests.every((test) => other.tests.every((another) => isUnlike(test, another)))
  );
}

/** A field becomes one thing or another. */
const isUnlike = (a: CompiledTest, b: CompiledTest): boolean =>
  a.kind === 'became' && b.kind === 'became' && a.field.key === b.field.key && !sameValue(a.value, b.value);

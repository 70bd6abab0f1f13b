import type { Model } from '@/core/model';
import { toWire, type WireValue } from '@/core/values';
import type { Expression, Typed } from '@/core/syntax/expression';
import { typeCondition } from './typing/type-expression';

/**
 * A condition that was written as text as tests of fields, joined by groups: what can be shown and changed test by test. `null` where it
 * can't be read, or has a part that no such test says, such as a sum.
 */
export function asTests(model: Model, type: string, text: string): Expression | null {
  const typed = typeCondition(model, type, { kind: 'feel', text });
  return typed.ok ? testOf(typed.value) : null;
}

function testOf(node: Typed): Expression | null {
  switch (node.kind) {
    case 'group': {
      const of = node.of.map(testOf);
      return of.includes(null) ? null : { kind: 'group', operator: node.operator, of: of as Expression[] };
    }
    case 'compare': {
      const left = fieldOf(node.left);
      const right = node.right.kind === 'constant' ? constantOf(node.right) : fieldOf(node.right);
      return left && right && { kind: 'compare', operator: node.operator, left, right };
    }
    case 'presence': {
      const operand = fieldOf(node.operand);
      return operand && { kind: 'presence', operator: node.operator, operand };
    }
    case 'match': {
      const operand = fieldOf(node.operand);
      const part = node.part.kind === 'constant' ? constantOf(node.part) : null;
      return operand && part && { kind: 'match', operator: node.operator, operand, part };
    }
    default:
      return null;
  }
}

const fieldOf = (node: Typed): Expression | null =>
  node.kind === 'field' ? { kind: 'field', route: node.route, field: node.field } : null;

/** A relative date has words that its day alone doesn't say. */
function constantOf(node: Extract<Typed, { kind: 'constant' }>): Expression | null {
  if (node.words !== undefined) return null;
  const value: WireValue = toWire(node.type, node.value);
  return { kind: 'constant', value };
}

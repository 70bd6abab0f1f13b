import { unreachable } from '../values';
import type { Typed, TypedField } from './expression';

/** Every field that an expression reads, in the order in which they stand. */
export function fieldsRead(node: Typed): TypedField[] {
  switch (node.kind) {
    case 'constant':
      return [];
    case 'field':
      return [node];
    case 'compare':
      return [...fieldsRead(node.left), ...fieldsRead(node.right)];
    case 'presence':
    case 'among':
      return fieldsRead(node.operand);
    case 'match':
      return [...fieldsRead(node.operand), ...fieldsRead(node.part)];
    case 'group':
      return node.of.flatMap(fieldsRead);
    case 'selection':
      return fieldsRead(node.of);
    default:
      return unreachable(node);
  }
}

import { unreachable } from '../values';
import type { Typed, TypedField, TypedGather } from './expression';

/** Every field that an expression reads on the record at hand and up its links, in the order in which they stand; see `gathersIn`. */
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
    case 'arithmetic':
      return [...fieldsRead(node.left), ...fieldsRead(node.right)];
    case 'negate':
      return fieldsRead(node.operand);
    case 'if':
      return [...fieldsRead(node.condition), ...fieldsRead(node.then), ...fieldsRead(node.otherwise)];
    case 'call':
      return node.arguments.flatMap(fieldsRead);
    case 'gather':
      return [];
    default:
      return unreachable(node);
  }
}

/** What an expression gathers from the records beneath; each reads fields of its own. */
export function gathersIn(node: Typed): TypedGather[] {
  switch (node.kind) {
    case 'gather':
      return [node];
    case 'constant':
    case 'field':
      return [];
    case 'compare':
    case 'arithmetic':
      return [...gathersIn(node.left), ...gathersIn(node.right)];
    case 'presence':
    case 'among':
    case 'negate':
      return gathersIn(node.operand);
    case 'match':
      return [...gathersIn(node.operand), ...gathersIn(node.part)];
    case 'group':
      return node.of.flatMap(gathersIn);
    case 'selection':
      return gathersIn(node.of);
    case 'if':
      return [...gathersIn(node.condition), ...gathersIn(node.then), ...gathersIn(node.otherwise)];
    case 'call':
      return node.arguments.flatMap(gathersIn);
    default:
      return unreachable(node);
  }
}

import { unreachable } from '@/core/values';
import type { Typed, TypedExchange, TypedField, TypedGather } from '@/core/syntax/expression';

/** The parts of an expression that are read on the record at hand: what is gathered reads others. */
export function partsOf(node: Typed): readonly Typed[] {
  switch (node.kind) {
    case 'constant':
    case 'field':
    case 'gather':
    case 'ofRun':
      return [];
    case 'compare':
    case 'arithmetic':
      return [node.left, node.right];
    case 'presence':
    case 'among':
    case 'negate':
      return [node.operand];
    case 'match':
      return [node.operand, node.part];
    case 'group':
      return node.of;
    case 'selection':
      return [node.of];
    case 'if':
      return [node.condition, node.then, node.otherwise];
    case 'call':
      return node.arguments;
    case 'exchange':
      return [node.amount, node.day];
    default:
      return unreachable(node);
  }
}

/** Every field that an expression reads on the record at hand and up its links, in the order in which they stand; see `gathersIn`. */
export const fieldsRead = (node: Typed): TypedField[] =>
  node.kind === 'field' ? [node] : partsOf(node).flatMap(fieldsRead);

/** The tests of a condition one by one, whatever they are joined by; those of a selection are its own. */
export const testsIn = (node: Typed): readonly Typed[] =>
  node.kind === 'group' ? node.of.flatMap(testsIn) : node.kind === 'selection' ? testsIn(node.of) : [node];

/** What an expression gathers from the records beneath; each reads fields of its own. */
export const gathersIn = (node: Typed): TypedGather[] =>
  node.kind === 'gather' ? [node] : partsOf(node).flatMap(gathersIn);

/** The exchanges of an expression, also those of what it gathers: they read rates. */
export const exchangesIn = (node: Typed): TypedExchange[] => [
  ...(node.kind === 'exchange' ? [node] : []),
  ...(node.kind === 'gather'
    ? [node.value, node.condition].flatMap((part) => (part ? exchangesIn(part) : []))
    : partsOf(node).flatMap(exchangesIn)),
];

/** Whether an expression reads dates relative to the settled day: it turns with the day, and with no edit. */
export const isDated = (node: Typed): boolean =>
  (node.kind === 'constant' && node.words !== undefined) ||
  (node.kind === 'gather'
    ? [node.value, node.condition].some((part) => part !== null && isDated(part))
    : partsOf(node).some(isDated));

import { unreachable } from '@/core/values';
import type { Expression } from '@/core/syntax/expression';

/** The expressions that one is made of, each with its place in it. */
export function partsOf(
  node: Expression,
): readonly (readonly [place: readonly (string | number)[], part: Expression])[] {
  switch (node.kind) {
    case 'constant':
    case 'field':
    case 'day':
    case 'ofRun':
    case 'selection':
    case 'feel':
      return [];
    case 'compare':
    case 'arithmetic':
      return [
        [['left'], node.left],
        [['right'], node.right],
      ];
    case 'presence':
    case 'among':
    case 'negate':
      return [[['operand'], node.operand]];
    case 'match':
      return [
        [['operand'], node.operand],
        [['part'], node.part],
      ];
    case 'group':
      return node.of.map((part, index) => [['of', index], part] as const);
    case 'if':
      return [
        [['condition'], node.condition],
        [['then'], node.then],
        [['otherwise'], node.otherwise],
      ];
    case 'call':
      return node.arguments.map((part, index) => [['arguments', index], part] as const);
    case 'gather':
      return [
        ...(node.value ? [[['value'], node.value] as const] : []),
        ...(node.condition ? [[['condition'], node.condition] as const] : []),
      ];
    default:
      return unreachable(node);
  }
}

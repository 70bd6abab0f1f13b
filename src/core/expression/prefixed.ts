import { unreachable } from '../values';
import type { Expression } from './expression';

/** An expression read on a record up a route, as one that is read on the record at hand. */
export function prefixed(node: Expression, route: readonly string[]): Expression {
  if (route.length === 0) return node;
  const onward = (part: Expression) => prefixed(part, route);
  switch (node.kind) {
    case 'constant':
    case 'day':
    case 'feel':
      return node;
    case 'field':
    case 'selection':
      return { ...node, route: [...route, ...node.route] };
    case 'compare':
    case 'arithmetic':
      return { ...node, left: onward(node.left), right: onward(node.right) };
    case 'presence':
    case 'among':
    case 'negate':
      return { ...node, operand: onward(node.operand) };
    case 'match':
      return { ...node, operand: onward(node.operand), part: onward(node.part) };
    case 'group':
      return { ...node, of: node.of.map(onward) };
    case 'if':
      return {
        ...{ kind: 'if', condition: onward(node.condition) },
        ...{ then: onward(node.then), otherwise: onward(node.otherwise) },
      };
    case 'call':
      return { ...node, arguments: node.arguments.map(onward) };
    case 'gather':
      return { ...node, up: [...route, ...node.up] };
    default:
      return unreachable(node);
  }
}

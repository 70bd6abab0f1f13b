import { unreachable } from '@/core/values';
import type { Expression, Typed, TypedField } from '@/core/syntax/expression';

/** An expression read on a record up a route, as one that is read on the record at hand. */
export function prefixed(node: Expression, route: readonly string[]): Expression {
  if (route.length === 0) return node;
  const onward = (part: Expression) => prefixed(part, route);
  switch (node.kind) {
    case 'constant':
    case 'day':
    case 'feel':
    case 'ofRun':
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

/** The same for a typed expression that gathers nothing beneath: read on a record of the type `from`, up the route. */
export function typedPrefixed(node: Typed, from: string, route: readonly string[]): Typed {
  const onward = (part: Typed) => typedPrefixed(part, from, route);
  switch (node.kind) {
    case 'field':
      return { ...node, from, route: [...route, ...node.route] };
    case 'selection':
      return { ...node, from, route: [...route, ...node.route], of: onward(node.of) };
    case 'gather': {
      const { leading } = node;
      const onOwn = (field: TypedField): TypedField => ({
        ...field,
        from,
        route: [...route, ...field.route],
      });
      const lead = leading && {
        ...leading,
        apart: leading.apart && onOwn(leading.apart),
        same: leading.same.map(({ own, theirs }) => ({ own: onOwn(own), theirs })),
      };
      return { ...node, from, up: [...route, ...node.up], ...(lead ? { leading: lead } : {}) };
    }
    default:
      return withParts(node, onward);
  }
}

/** A typed expression with other ones in place of those that it is made of; what it gathers beneath stays. */
export function withParts(node: Typed, to: (part: Typed) => Typed): Typed {
  switch (node.kind) {
    case 'constant':
    case 'field':
    case 'gather':
    case 'ofRun':
      return node;
    case 'selection':
      return { ...node, of: to(node.of) };
    case 'compare':
    case 'arithmetic':
      return { ...node, left: to(node.left), right: to(node.right) };
    case 'presence':
    case 'among':
    case 'negate':
      return { ...node, operand: to(node.operand) };
    case 'match':
      return { ...node, operand: to(node.operand), part: to(node.part) };
    case 'group':
      return { ...node, of: node.of.map(to) };
    case 'if':
      return { ...node, condition: to(node.condition), then: to(node.then), otherwise: to(node.otherwise) };
    case 'call':
      return { ...node, arguments: node.arguments.map(to) };
    case 'exchange':
      return { ...node, amount: to(node.amount), day: to(node.day) };
    default:
      return unreachable(node);
  }
}

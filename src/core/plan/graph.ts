/** A directed graph over keys: `edges.get(a)` holds what must come after `a`. */
export interface Graph {
  readonly nodes: readonly string[];
  readonly edges: ReadonlyMap<string, ReadonlySet<string>>;
}

/**
 * Strongly connected components in topological order (Tarjan 1972), ties by the order of `nodes`. A component of more
 * than one node, or with an edge to itself, is a circle.
 */
export function components({ nodes, edges }: Graph): string[][] {
  const found: string[][] = [];
  const index = new Map<string, number>();
  const low = new Map<string, number>();
  const stack: string[] = [];
  const onStack = new Set<string>();
  const visit = (node: string): void => {
    index.set(node, index.size);
    low.set(node, valueAt(index, node));
    stack.push(node);
    onStack.add(node);
    for (const next of [...(edges.get(node) ?? [])].reverse()) {
      if (!index.has(next)) {
        visit(next);
        low.set(node, Math.min(valueAt(low, node), valueAt(low, next)));
      } else if (onStack.has(next)) low.set(node, Math.min(valueAt(low, node), valueAt(index, next)));
    }
    if (low.get(node) !== index.get(node)) return;
    const component: string[] = [];
    for (let last = ''; last !== node;) {
      last = certain(stack.pop());
      onStack.delete(last);
      component.push(last);
    }
    found.push(component);
  };
  // Tarjan finds components in reverse topological order, so starting from the last keeps the order of the first.
  for (const node of [...nodes].reverse()) if (!index.has(node)) visit(node);
  return found.reverse();
}

/** A shortest way round from a node of a circle back to itself, with the node at both ends. */
export function circleThrough(start: string, { edges }: Graph): string[] {
  const cameFrom = new Map<string, string>();
  const queue = [start];
  for (let node = queue.shift(); node !== undefined; node = queue.shift()) {
    for (const next of edges.get(node) ?? []) {
      if (next === start) {
        const path = [node];
        while (path[0] !== start) path.unshift(valueAt(cameFrom, firstIn(path)));
        return [...path, start];
      }
      if (!cameFrom.has(next)) {
        cameFrom.set(next, node);
        queue.push(next);
      }
    }
  }
  throw new RangeError(`“${start}” lies on no circle`);
}
import { certain, firstIn, valueAt } from '@/core/values';

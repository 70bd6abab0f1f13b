import { unreachable } from '../values';
import type { Expression } from './expression';

/** Keys of the selections that a condition uses itself, as it is written. */
export function selectionsIn(node: Expression | null): string[] {
  if (node === null) return [];
  switch (node.kind) {
    case 'constant':
    case 'field':
    case 'day':
      return [];
    case 'selection':
      return [node.selection];
    case 'compare':
      return [...selectionsIn(node.left), ...selectionsIn(node.right)];
    case 'presence':
    case 'among':
      return selectionsIn(node.operand);
    case 'match':
      return [...selectionsIn(node.operand), ...selectionsIn(node.part)];
    case 'group':
      return node.of.flatMap(selectionsIn);
    default:
      return unreachable(node);
  }
}

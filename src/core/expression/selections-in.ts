import { itemAt } from '@/core/values';
import type { Expression } from '@/core/syntax/expression';
import { partsOf } from './parts';

const IN_TEXT = /\bselected\s*\([^()"]*"([^"]*)"\s*\)/g;

/** Keys of the selections that a condition uses itself, as it is written. */
export function selectionsIn(node: Expression | null): string[] {
  if (node === null) return [];
  if (node.kind === 'selection') return [node.selection];
  if (node.kind === 'feel') return Array.from(node.text.matchAll(IN_TEXT), (found) => itemAt(found, 1));
  return partsOf(node).flatMap(([, part]) => selectionsIn(part));
}

import type { WireEdit } from '@/core/engine';
import type { WireValue } from '@/core/values';

/** One staged edit: a field that is given a value (a move is one of a link), a record that is made or deleted. Nothing is saved. */
export type Step =
  | {
      readonly kind: 'edit';
      readonly type: string;
      readonly id: string;
      readonly field: string;
      readonly value: WireValue;
    }
  | {
      readonly kind: 'create';
      readonly type: string;
      readonly id: string;
      readonly values: Readonly<Record<string, WireValue>>;
    }
  | { readonly kind: 'delete'; readonly type: string; readonly id: string };

/**
 * Staged steps as the edits of one run: each record once, a later value of a field instead of an earlier one; a record that
 * is deleted isn't edited as well, and one that is made and deleted was never there.
 */
export function editsOf(steps: readonly Step[]): WireEdit[] {
  const edits = new Map<string, WireEdit>();
  for (const step of steps) {
    const { kind, type, id } = step;
    const key = `${type} ${id}`;
    const known = edits.get(key);
    if (known?.kind === 'delete') continue;
    if (kind === 'create') edits.set(key, { kind, type, id, values: step.values });
    else if (kind === 'delete' && known?.kind === 'create') edits.delete(key);
    else if (kind === 'delete') edits.set(key, { kind, type, id });
    else
      edits.set(key, {
        kind: known?.kind ?? 'edit',
        ...{ type, id, values: { ...known?.values, [step.field]: step.value } },
      });
  }
  return [...edits.values()];
}

import type { WireEdit } from '@/core/engine';
import type { WireValue } from '@/core/values';

/** One staged edit: a field of a record that is given a value, or a record that is deleted. Nothing of it is saved. */
export type Step =
  | {
      readonly kind: 'edit';
      readonly type: string;
      readonly id: string;
      readonly field: string;
      readonly value: WireValue;
    }
  | { readonly kind: 'delete'; readonly type: string; readonly id: string };

/**
 * Staged steps as the edits of one run: each record once, a later value of a field instead of an earlier one; a record that
 * is deleted isn't edited as well.
 */
export function editsOf(steps: readonly Step[]): WireEdit[] {
  const edits = new Map<string, WireEdit>();
  for (const step of steps) {
    const key = `${step.type} ${step.id}`;
    const known = edits.get(key);
    if (known?.kind === 'delete') continue;
    if (step.kind === 'delete') edits.set(key, { kind: 'delete', type: step.type, id: step.id });
    else
      edits.set(key, {
        kind: 'edit',
        type: step.type,
        id: step.id,
        values: { ...known?.values, [step.field]: step.value },
      });
  }
  return [...edits.values()];
}

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
  | { readonly kind: 'delete' | 'restore'; readonly type: string; readonly id: string }
  /** What comes after it is another save: rules have followed from what was before. */
  | { readonly kind: 'save' };

/** Staged steps save by save; a save of nothing is none. */
export function runsOf(steps: readonly Step[]): WireEdit[][] {
  const runs: Step[][] = [[]];
  for (const step of steps) {
    if (step.kind === 'save') runs.push([]);
    else runs.at(-1)!.push(step);
  }
  return runs.map(editsOf).filter((edits) => edits.length > 0);
}

/** The steps that make up saves. */
export const stepsOf = (runs: readonly (readonly WireEdit[])[]): Step[] =>
  runs.flatMap((edits, at): Step[] => [
    ...(at > 0 ? [{ kind: 'save' } as const] : []),
    ...edits.flatMap(({ kind, type, id = '', values = {} }): Step[] => {
      const given = values as Readonly<Record<string, WireValue>>;
      if (kind === 'create') return [{ kind, type, id, values: given }];
      if (kind !== 'edit') return [{ kind, type, id }];
      return Object.entries(given).map(([field, value]) => ({ kind, type, id, field, value }));
    }),
  ]);

/**
 * Staged steps as the edits of one run: each record once, a later value of a field instead of an earlier one; a record that
 * is deleted isn't edited as well, and one that is made and deleted was never there.
 */
export function editsOf(steps: readonly Step[]): WireEdit[] {
  const edits = new Map<string, WireEdit>();
  for (const step of steps) {
    if (step.kind === 'save') continue;
    const { kind, type, id } = step;
    const key = `${type} ${id}`;
    const known = edits.get(key);
    if (known?.kind === 'delete') continue;
    if (kind === 'create') edits.set(key, { kind, type, id, values: step.values });
    else if (kind === 'delete' && known?.kind === 'create') edits.delete(key);
    else if (step.kind !== 'edit') edits.set(key, { kind: step.kind, type, id });
    else
      edits.set(key, {
        kind: known?.kind ?? 'edit',
        ...{ type, id, values: { ...known?.values, [step.field]: step.value } },
      });
  }
  return [...edits.values()];
}

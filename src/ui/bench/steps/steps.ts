import { lastIn, type WireValue } from '@/core/values';
import type { WireEdit } from '@/core/engine';
import type { Proof, RunSetting } from '@/core/verify';
import type { Staged } from '@/ui/workers/rule-worker';

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
  | { readonly kind: 'save' }
  /** The same, on another day. */
  | { readonly kind: 'day'; readonly day: string }
  /** The same, by another person. */
  | { readonly kind: 'actor'; readonly person: string };

/** Whether what comes after a step is another save. */
export const isSave = ({ kind }: Step): boolean => kind === 'save' || kind === 'day' || kind === 'actor';

/** Staged steps save by save. A save of nothing is none, but where a day comes. */
export function stagedOf(steps: readonly Step[]): Staged {
  const saves: { readonly steps: Step[]; day?: string; person?: string }[] = [{ steps: [] }];
  for (const step of steps) {
    if (!isSave(step)) {
      // What is edited of a record that came out of the bin is another save: one edit either restores or writes.
      if (
        step.kind === 'edit' &&
        lastIn(saves).steps.some((one) => one.kind === 'restore' && isSame(one, step))
      )
        saves.push({ steps: [] });
      lastIn(saves).steps.push(step);
    } else {
      const last = lastIn(saves);
      // Several that say when and by whom make one, but for two days one after the other.
      const isOpen = last.steps.length === 0 && !(step.kind === 'day' && last.day !== undefined);
      const next = isOpen ? last : { steps: [] as Step[] };
      if (!isOpen) saves.push(next);
      if (step.kind === 'day') Object.assign(next, { day: step.day });
      if (step.kind === 'actor') Object.assign(next, { person: step.person });
    }
  }
  const runs: WireEdit[][] = [];
  const settings: RunSetting[] = [];
  let person: string | undefined;
  for (const save of saves) {
    const edits = editsOf(save.steps);
    person = save.person ?? person;
    if (edits.length === 0 && save.day === undefined) continue;
    const setting = {
      ...(save.day === undefined ? {} : { day: save.day }),
      ...(person === undefined ? {} : { person }),
    };
    if (Object.keys(setting).length > 0) settings.push({ run: runs.length, ...setting });
    runs.push(edits);
    person = undefined;
  }
  return { runs, settings };
}

type OfRecord = Extract<Step, { readonly id: string }>;
const isSame = (one: OfRecord, other: OfRecord): boolean => one.id === other.id && one.type === other.type;

/** The steps that make up saves. */
export const stepsOf = ({ runs, settings = [] }: Pick<Proof, 'runs' | 'settings'>): Step[] =>
  runs.flatMap((edits, at): Step[] => [
    ...beginningOf(at, settings),
    ...edits.flatMap(({ kind, type, id = '', values = {} }): Step[] => {
      const given = values as Readonly<Record<string, WireValue>>;
      if (kind === 'create') return [{ kind, type, id, values: given }];
      if (kind !== 'edit') return [{ kind, type, id }];
      return Object.entries(given).map(([field, value]) => ({ kind, type, id, field, value }));
    }),
  ]);

/** What a save begins with: when and by whom it is, where that is said; else that it is another one. */
function beginningOf(at: number, settings: readonly RunSetting[]): Step[] {
  const said = settings
    .filter(({ run }) => run === at)
    .flatMap(({ day, person }): Step[] => [
      ...(day === undefined ? [] : [{ kind: 'day', day } as const]),
      ...(typeof person === 'string' ? [{ kind: 'actor', person } as const] : []),
    ]);
  return said.length === 0 && at > 0 ? [{ kind: 'save' }] : said;
}

/**
 * Staged steps as the edits of one run: each record once, a later value of a field instead of an earlier one; a record that
 * is deleted isn't edited as well, and one that is made and deleted was never there.
 */
export function editsOf(steps: readonly Step[]): WireEdit[] {
  const edits = new Map<string, WireEdit>();
  for (const step of steps) {
    if (step.kind === 'save' || step.kind === 'day' || step.kind === 'actor') continue;
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

import { recordKey, type RecordRef, type Row, type WireEdit } from '@/core/engine';
import type { Accumulator } from '@/core/rules';
import type { LoadedWorkspace } from './workspace';

/** What is kept beside a record's values, by field: what a total is made of, and which child leads, as far as that is known. */
export interface Beside {
  readonly accumulators: ReadonlyMap<string, Accumulator>;
  readonly leaders: ReadonlyMap<string, string>;
}

/** A record as this process last saw it. */
export interface SeenRow {
  readonly row: Row;
  readonly beside: Beside;
  /** Of which version of it in its table that is (see `stampOf`); `null` where that isn't known. */
  readonly stamp: string | null;
}

export const NOTHING_BESIDE: Beside = { accumulators: new Map(), leaders: new Map() };

/** Most records of a workspace that a process remembers. */
const MOST = 20_000;

const remembered = new WeakMap<LoadedWorkspace, Map<string, SeenRow>>();

/**
 * Records as this process last saw them. They are guesses at what a save will have to lock, which saves it the round trip to
 * look; nothing is decided from them: under its locks a save reads everything again, or finds that it is the same version still, and starts anew
 * where it guessed wrong. They go with the workspace as compiled, so a change of the model or of live rules forgets them.
 */
export function cacheSeen(workspace: LoadedWorkspace, seen: Iterable<SeenRow>): void {
  let known = remembered.get(workspace);
  if (!known) remembered.set(workspace, (known = new Map<string, SeenRow>()));
  for (const one of seen) {
    const key = recordKey(one.row);
    known.delete(key); // so that the oldest come first
    known.set(key, one);
  }
  for (const key of known.keys()) {
    if (known.size <= MOST) break;
    known.delete(key);
  }
}

export const cachedRow = (workspace: LoadedWorkspace, ref: RecordRef): SeenRow | undefined =>
  remembered.get(workspace)?.get(recordKey(ref));

export function forgetRows(workspace: LoadedWorkspace, refs: Iterable<RecordRef>): void {
  const known = remembered.get(workspace);
  for (const ref of refs) known?.delete(recordKey(ref));
}

const reachingMany = new WeakMap<LoadedWorkspace, Set<string>>();

/** Whether the same records were edited in the same fields before, and so many followed that the workspace had to be locked. */
export const wasBulk = (workspace: LoadedWorkspace, edits: readonly WireEdit[]): boolean =>
  reachingMany.get(workspace)?.has(editsKey(edits)) === true;

/** Next time such a save begins with the workspace locked, rather than find out again that it must; or no longer. */
export function noteBulk(
  workspace: LoadedWorkspace,
  edits: readonly WireEdit[],
  { isMany }: { readonly isMany: boolean },
): void {
  let known = reachingMany.get(workspace);
  if (!isMany) known?.delete(editsKey(edits));
  else {
    if (!known || known.size >= MOST) reachingMany.set(workspace, (known = new Set<string>()));
    known.add(editsKey(edits));
  }
}

const editsKey = (edits: readonly WireEdit[]): string =>
  edits
    .map(({ kind, type, id, values = {} }) => [kind, type, id, ...Object.keys(values)].join(' '))
    .join('; ');

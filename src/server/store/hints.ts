import { recordKey, type RecordRef, type Row } from '@/core/engine';
import type { LoadedWorkspace } from './workspace';

/** Most records of a workspace that a process remembers. */
const MOST = 20_000;

const remembered = new WeakMap<LoadedWorkspace, Map<string, Row>>();

/**
 * Records as this process last saw them. They are guesses at what a save will have to lock, which saves it the round trip to
 * look; nothing is decided from them: under its locks a save reads everything again, and starts anew where it guessed wrong.
 * They go with the workspace as compiled, so a change of the model or of live rules forgets them.
 */
export function remember(workspace: LoadedWorkspace, rows: Iterable<Row>): void {
  let known = remembered.get(workspace);
  if (!known) remembered.set(workspace, (known = new Map<string, Row>()));
  for (const row of rows) {
    const key = recordKey(row);
    known.delete(key); // so that the oldest come first
    known.set(key, row);
  }
  for (const key of known.keys()) {
    if (known.size <= MOST) break;
    known.delete(key);
  }
}

export const guess = (workspace: LoadedWorkspace, ref: RecordRef): Row | undefined =>
  remembered.get(workspace)?.get(recordKey(ref));

export function forget(workspace: LoadedWorkspace, refs: Iterable<RecordRef>): void {
  const known = remembered.get(workspace);
  for (const ref of refs) known?.delete(recordKey(ref));
}

import { propagate, type RecordRef, recordKey, type RunOutcome, type Edit } from '@/core/engine';
import { certain } from '@/core/values';
import type { RippleView } from '@/core/verify';
import { v7 as newId } from 'uuid';
import { SeenDriver } from '@/server/store/run/as-seen';
import { boundsNow } from '@/server/store/session/bounds';
import { wasBulk } from '@/server/store/session/row-cache';
import { inOneStatement } from '@/server/store/session/transactions';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { readSave } from './read-save';
import type { Saved, SaveInput } from './save';
import { namedIn, ripplesView } from './told-ripple';

/**
 * Saves edits by one statement where all that the engine needs was seen by this process lately, and stands as it was seen. `null` where it can't be
 * saved so, or isn't to be saved at all: then nothing was, and the usual way tells why.
 */
export async function saveAsSeen(input: SaveInput): Promise<Saved | null> {
  if (input.along) return null;
  const workspace = await loadWorkspace(input.workspace);
  if (wasBulk(workspace, input.edits)) return null;
  const { read, facts, info, isPersonKnown } = readSave(workspace, input);
  if (!read.ok || !isPersonKnown) return null;
  const { model, plan } = workspace;
  const { edits } = read;
  const driver = new SeenDriver(workspace, info, madeBy(edits));
  const outcome = workOut(driver, propagate({ model, plan, edits, newId, facts, bounds: boundsNow() }));
  const named = outcome?.kind === 'done' ? driver.known(namedIn(workspace, outcome.ripple)) : null;
  if (outcome?.kind !== 'done' || !named) return null;
  const told: { ripple?: RippleView } = {};
  const isSaved = await withoutMeeting(workspace, driver.locked, () =>
    inOneStatement(workspace, (transaction) => {
      const sent = driver.save(transaction);
      sent.catch(() => undefined); // told where it is waited for
      told.ripple = ripplesView(workspace, named, outcome.ripple);
      return sent;
    }),
  );
  return isSaved
    ? { run: certain(driver.run), ids: edits.map(({ id }) => id), ripple: certain(told.ripple) }
    : null;
}

const madeBy = (edits: readonly Edit[]): Set<string> =>
  new Set(edits.filter(({ kind }) => kind === 'create').map(recordKey));

/** `null` where something isn't known. */
function workOut(driver: SeenDriver, run: ReturnType<typeof propagate>): RunOutcome | null {
  let step = run.next();
  while (!step.done) {
    const answer = driver.answer(step.value);
    if (answer === undefined) return null;
    step = run.next(answer);
  }
  return step.value;
}

const underWay = new WeakMap<LoadedWorkspace, Set<string>>();

/** What another save of this process is about to change isn't as it was seen for long: whoever needs it as well goes the usual way, and waits. */
async function withoutMeeting(
  workspace: LoadedWorkspace,
  refs: readonly RecordRef[],
  work: () => Promise<boolean>,
): Promise<boolean> {
  let meeting = underWay.get(workspace);
  if (!meeting) underWay.set(workspace, (meeting = new Set()));
  const keys = refs.map(recordKey);
  if (keys.some((key) => meeting.has(key))) return false;
  keys.forEach((key) => meeting.add(key));
  try {
    return await work();
  } finally {
    keys.forEach((key) => meeting.delete(key));
  }
}

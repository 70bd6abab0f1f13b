import type { RunLeft } from '@/core/api';
import { writeCount } from '@/core/values';
import { type ChangeView, leftAsIs, type LeftContext, MOST_TOUCHED } from '@/core/verify';
import { Refusal } from '@/server/refusal';
import { loadLooked } from '@/server/store/run/load-looked';
import { SnapshotDriver } from '@/server/store/run/snapshot-driver';
import { inSnapshot } from '@/server/store/session/transactions';
import { isCancelled, run } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { liveThen } from './live-then';
import { findRun, runIn } from './runs';
import { UnlikeModel, WoundBack } from './wound-back';

/** Seconds that a statement of it may take: a ledger may have grown by millions of entries since. */
const LIMIT = 5;

const TOO_LARGE = `This run did something to more than ${writeCount(MOST_TOUCHED)} records: what rules looked at and left then isn’t gone over again.`;
const GROWN = `So much changed since that how the records stood then isn’t gone back to.`;
const UNLIKE =
  'The model changed since in a way in which values of then don’t fit their fields any more: what was left can’t be told.';

/**
 * What rules looked at in a run and left, and why: the records as they stood before and after it, by the ledger, and the rules that were live then.
 * Where that can't be told, it says so.
 */
export async function leftInRun(workspace: LoadedWorkspace, id: string): Promise<RunLeft> {
  const untold = (why: string): RunLeft => ({ left: [], unfit: [], untold: why });
  try {
    return await inSnapshot(async (transaction) => {
      await run(transaction, `SET LOCAL statement_timeout = ${LIMIT * 1_000}`);
      const { person, at } = await findRun(transaction, workspace, id);
      const { waves, next } = await runIn(transaction, workspace, id, null, MOST_TOUCHED);
      if (next !== null) return untold(TOO_LARGE);
      const then = await liveThen(transaction, workspace, id);
      const of = { ...workspace, model: then.model, plan: then.plan };
      const driver = new SnapshotDriver(of, transaction, new WoundBack(transaction, of, BigInt(id)));
      const context: LeftContext = {
        ...{ model: then.model, plan: then.plan, store: driver.overlay, before: driver.stored },
        ...{ names: Object.fromEntries(workspace.people), facts: { person, moment: at } },
      };
      const changes = waves.flatMap((wave) => wave.changes);
      await bringForward(driver, changes, new WoundBack(transaction, of, BigInt(id) + 1n));
      await loadLooked(driver, context, changes);
      return { left: leftAsIs(context, { waves }), unfit: then.unfit, untold: null };
    });
  } catch (error) {
    if (error instanceof UnlikeModel) return untold(UNLIKE);
    if (isCancelled(error) || (error instanceof Refusal && error.code === 'rehearsal.size'))
      return untold(GROWN);
    throw error;
  }
}

/** The records that the run did something to, as they stood before it, and over them as they stood after. */
async function bringForward(
  driver: SnapshotDriver,
  changes: readonly ChangeView[],
  after: WoundBack,
): Promise<void> {
  const ids = new Map<string, Set<string>>();
  for (const { type, id } of changes) ids.set(type, (ids.get(type) ?? new Set()).add(id));
  for (const [type, wanted] of ids) {
    await driver.load(type, [...wanted]);
    for (const row of await after.rows(type, [...wanted])) driver.overlay.put(row);
  }
}

import { firstIn } from '@/core/values';
import type { Timetable } from '@/core/model';
import { isCreate, isSlower } from '@/core/rules';
import { bringUpToDate } from '@/server/actions/rules/bring-up-to-date';
import { makeAsked } from '@/server/actions/records/make-asked';
import { saveQueued } from '@/server/actions/records/queued-saves';
import { listWorkspaces } from '@/server/actions/workspaces/make-workspace';
import type { Transaction } from 'sequelize';
import { database, isConnectionLost } from '@/server/database/connection';
import { log } from '@/server/log';
import { nextTime } from '@/server/next-time';
import { Refusal } from '@/server/refusal';
import { messageService } from '@/server/messages/message-services';
import { sendMessages } from './send-messages';
import { onLater } from '@/server/store/session/tell-later';
import { countWaiting } from '@/server/store/write/run-counts';
import { quote, run } from '@/server/store/sql/sql';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';

/**
 * Brings up to date what waits in a workspace for rules whose pace is soon after, and for those whose timetable has come round. What fails
 * is told at its rule, and tried again when its pace comes round next. Sends what was written to people, too.
 */
export async function keepPaces(key: string, now: Date): Promise<void> {
  const workspace = await loadWorkspace(key);
  const slower = workspace.plan.rules.filter(isSlower);
  const soon = new Set(slower.filter(({ pace }) => pace === 'soonAfter').map(({ id }) => id));
  if (soon.size > 0 && (await isDeferred(workspace, [...soon]))) await bringWaiting(workspace, [...soon]);
  const failed: unknown[] = [];
  for (const [id, timetable] of timetablesIn(workspace))
    await keepTimetable(workspace, id, timetable, now).catch((error: unknown) => failed.push(error));
  if (failed.length > 0) throw failed[0];
  const saved = await saveQueued(key);
  if (saved > 0) log.info({ workspace: key, saved }, 'saves that were put off were carried out');
  await database().transaction((transaction) => countWaiting(transaction, workspace));
  const service = messageService();
  if (service) await sendMessages(key, service);
}

const isDeferred = async ({ schema }: LoadedWorkspace, rules: readonly string[]): Promise<boolean> => {
  const found = firstIn(
    await database().transaction((transaction) =>
      run<{ any: boolean }>(
        transaction,
        `SELECT EXISTS (SELECT FROM ${quote(schema)}._later WHERE rule = ANY($1::uuid[])) AS any`,
        [rules],
      ),
    ),
  );
  return found.any;
};

function timetablesIn({ plan }: LoadedWorkspace): Map<string, Timetable> {
  const found = new Map<string, Timetable>();
  for (const { id, pace } of plan.turns)
    if (typeof pace !== 'string' && pace.kind === 'timetable') found.set(id, pace);
  return found;
}

/**
 * A timetable that has come round is kept, and set to its next time, in one transaction: whichever process takes it on, and whatever ends it on the
 * way, what is due is done once. One that is new is set, and one that lies further off than its own next time set anew, as after a clock
 * that was ahead.
 */
async function keepTimetable(
  workspace: LoadedWorkspace,
  rule: string,
  timetable: Timetable,
  now: Date,
): Promise<void> {
  const table = `${quote(workspace.schema)}._rule`;
  const next = nextTime(timetable, workspace.timeZone, now).toISOString();
  const [found] = await database().transaction((transaction) =>
    run<{ due: string | null; isDue: boolean | null }>(
      transaction,
      `SELECT due_at::text AS due, due_at <= $2 AS "isDue" FROM ${table} WHERE id = $1`,
      [rule, now.toISOString()],
    ),
  );
  if (!found) return;
  if (found.isDue !== true) {
    await database().transaction((transaction) =>
      run(
        transaction,
        `UPDATE ${table} SET due_at = $2::timestamptz WHERE id = $1 AND due_at IS NOT DISTINCT FROM $3::timestamptz
          AND (due_at IS NULL OR due_at > $2::timestamptz)`,
        [rule, next, found.due],
      ),
    );
    return;
  }
  // Where another process is at it, or was meanwhile, there is nothing to do here.
  const claim = async (transaction: Transaction): Promise<boolean> => {
    const claimed = await run(
      transaction,
      `SELECT id FROM ${table} WHERE id = $1 AND due_at = $2::timestamptz FOR UPDATE SKIP LOCKED`,
      [rule, found.due],
    );
    if (claimed.length === 0) return false;
    await run(transaction, `UPDATE ${table} SET due_at = $2, pace_problem = NULL WHERE id = $1`, [
      rule,
      next,
    ]);
    return true;
  };
  await bring(workspace, [rule], claim).catch((error: unknown) =>
    database().transaction((transaction) =>
      run(
        transaction,
        `UPDATE ${table} SET due_at = $2, pace_problem = $4 WHERE id = $1 AND due_at = $3::timestamptz`,
        [rule, next, found.due, told(workspace, [rule], error)],
      ),
    ),
  );
}

type Claim = (transaction: Transaction) => Promise<boolean>;

/** Makes records, or brings values up to date. */
async function bring(workspace: LoadedWorkspace, rules: readonly string[], claim?: Claim): Promise<void> {
  const { key, plan } = workspace;
  const makers = rules.filter((id) => plan.turns.some((rule) => isCreate(rule) && rule.id === id));
  const claiming = claim ? { claim } : {};
  if (makers.length > 0) {
    const made = await makeAsked({ workspace: key, person: null, rules: makers, ...claiming });
    if (made.run) log.info({ workspace: key, ...made }, 'records were made at their time');
    return;
  }
  const brought = await bringUpToDate({ workspace: key, person: null, rules, ...claiming });
  if (brought.run)
    log.info({ workspace: key, ...brought }, 'values of a slower pace were brought up to date');
}

/**
 * Logs why values stay as they are, and answers it in words. Where the database was away or others had the workspace, also where it isn't known what
 * came of it, it is thrown: nothing is noted, and the next look finds things as they are.
 */
function told(workspace: LoadedWorkspace, rules: readonly string[], error: unknown): string {
  if (isConnectionLost(error) || (error instanceof Refusal && error.status === 503)) throw error;
  log.warn(
    { err: error, workspace: workspace.key, rules },
    'values of a slower pace stay as they are; they are tried again',
  );
  return error instanceof Error ? error.message : String(error);
}

/** Brings up to date what waits. Those that can't be together are tried one by one, so that one doesn't hold up the others. */
async function bringWaiting(workspace: LoadedWorkspace, rules: readonly string[]): Promise<void> {
  try {
    await bring(workspace, rules);
    await note(workspace, rules, null);
  } catch (error) {
    if (rules.length > 1) {
      for (const rule of rules) await bringWaiting(workspace, [rule]);
      return;
    }
    await note(workspace, rules, told(workspace, rules, error));
  }
}

/** Keeps with a rule why it couldn't be brought up to date, for its page. */
const note = (
  { schema }: LoadedWorkspace,
  rules: readonly string[],
  problem: string | null,
): Promise<unknown> =>
  database().transaction((transaction) =>
    run(
      transaction,
      `UPDATE ${quote(schema)}._rule SET pace_problem = $2 WHERE id = ANY($1::uuid[]) AND pace_problem IS DISTINCT FROM $2`,
      [rules, problem],
    ),
  );

/** Saves within so many milliseconds are brought up to date together. */
const GATHERED = 150;
const EVERY = 30_000;

/** What waits, and what runs, in this process. */
interface PaceTimers {
  readonly waiting: Map<string, NodeJS.Timeout>;
  readonly running: Set<string>;
}

const globals = globalThis as { oikonPaces?: PaceTimers };

/**
 * From now on: soon after a save of this process, and for what other processes left or a timetable asks for, twice a minute. Once for
 * each process; where two take the same on, the second finds nothing left.
 */
export function startPaces(): void {
  if (globals.oikonPaces) return;
  const paces: PaceTimers = { waiting: new Map(), running: new Set() };
  globals.oikonPaces = paces;
  const keep = (key: string) => {
    paces.waiting.delete(key);
    if (paces.running.has(key)) return later(key);
    paces.running.add(key);
    void keepPaces(key, new Date())
      .catch((error: unknown) =>
        log.warn({ err: error, workspace: key }, 'slower paces could not be kept; they are tried again'),
      )
      .finally(() => paces.running.delete(key));
  };
  const later = (key: string) => {
    if (!paces.waiting.has(key))
      paces.waiting.set(
        key,
        setTimeout(() => keep(key), GATHERED),
      );
  };
  onLater(later);
  const sweep = () =>
    void listWorkspaces().then(
      (workspaces) => workspaces.forEach(({ key }) => later(key)),
      (error: unknown) => log.warn({ err: error }, 'slower paces could not be kept; they are tried again'),
    );
  setInterval(sweep, EVERY).unref();
  sweep();
}

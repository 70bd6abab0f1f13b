import type { Timetable } from '@/core/model';
import { isCreate, isSlower } from '@/core/rules';
import { bringUpToDate } from '../actions/bring-up-to-date';
import { makeAsked } from '../actions/make-asked';
import { saveQueued } from '../actions/queued-saves';
import { listWorkspaces } from '../actions/make-workspace';
import { database } from '../database/connection';
import { log } from '../log';
import { nextTime } from '../next-time';
import { messageService, sendMessages } from './send-messages';
import { onLater } from '../store/later';
import { quote, run } from '../store/sql';
import { type LoadedWorkspace, loadWorkspace } from '../store/workspace';

/**
 * Brings up to date what waits in a workspace for rules whose pace is soon after, and for those whose timetable has come round. What fails
 * is told at its rule, and tried again when its pace comes round next. Sends what was written to people, too.
 */
export async function keepPaces(key: string, now: Date): Promise<void> {
  const workspace = await loadWorkspace(key);
  const slower = workspace.plan.rules.filter(isSlower);
  const soon = new Set(slower.filter(({ pace }) => pace === 'soonAfter').map(({ id }) => id));
  if (soon.size > 0 && (await isWaiting(workspace, [...soon]))) await bring(workspace, [...soon]);
  for (const [id, timetable] of timetablesIn(workspace)) await keepTimetable(workspace, id, timetable, now);
  const saved = await saveQueued(key);
  if (saved > 0) log.info({ workspace: key, saved }, 'saves that were put off were carried out');
  const service = messageService();
  if (service) await sendMessages(key, service);
}

const isWaiting = async ({ schema }: LoadedWorkspace, rules: readonly string[]): Promise<boolean> => {
  const [found] = await database().transaction((transaction) =>
    run<{ any: boolean }>(
      transaction,
      `SELECT EXISTS (SELECT FROM ${quote(schema)}.later WHERE rule = ANY($1::uuid[])) AS any`,
      [rules],
    ),
  );
  return found!.any;
};

function timetablesIn({ plan }: LoadedWorkspace): Map<string, Timetable> {
  const found = new Map<string, Timetable>();
  for (const { id, pace } of plan.turns)
    if (typeof pace !== 'string' && pace.kind === 'timetable') found.set(id, pace);
  return found;
}

/** A timetable that has come round is kept, and set to its next time; one that is new is set. */
async function keepTimetable(
  workspace: LoadedWorkspace,
  rule: string,
  timetable: Timetable,
  now: Date,
): Promise<void> {
  const table = `${quote(workspace.schema)}.rule`;
  const [found] = await database().transaction((transaction) =>
    run<{ due: string | null; isDue: boolean }>(
      transaction,
      `SELECT due_at::text AS due, due_at <= $2 AS "isDue" FROM ${table} WHERE id = $1`,
      [rule, now.toISOString()],
    ),
  );
  if (!found || found.isDue === false) return;
  if (found.due !== null) await bring(workspace, [rule]);
  await database().transaction((transaction) =>
    run(
      transaction,
      `UPDATE ${table} SET due_at = $2 WHERE id = $1 AND due_at IS NOT DISTINCT FROM $3::timestamptz`,
      [rule, nextTime(timetable, workspace.timeZone, now).toISOString(), found.due],
    ),
  );
}

/** Those that can't be brought up to date together are tried one by one, so that one doesn't hold up the others. */
async function bring(workspace: LoadedWorkspace, rules: readonly string[]): Promise<void> {
  const { key, plan } = workspace;
  const makers = rules.filter((id) => plan.turns.some((rule) => isCreate(rule) && rule.id === id));
  try {
    if (makers.length > 0) {
      const made = await makeAsked({ workspace: key, person: null, rules: makers });
      if (made.run) log.info({ workspace: key, ...made }, 'records were made at their time');
    }
    const brought = await bringUpToDate({ workspace: key, person: null, rules });
    await note(workspace, rules, null);
    if (brought.run)
      log.info({ workspace: key, ...brought }, 'values of a slower pace were brought up to date');
  } catch (error) {
    if (rules.length > 1) {
      for (const rule of rules) await bring(workspace, [rule]);
      return;
    }
    log.warn(
      { err: error, workspace: key, rules },
      'values of a slower pace stay as they are; they are tried again',
    );
    await note(workspace, rules, error instanceof Error ? error.message : String(error));
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
      `UPDATE ${quote(schema)}.rule SET pace_problem = $2 WHERE id = ANY($1::uuid[]) AND pace_problem IS DISTINCT FROM $2`,
      [rules, problem],
    ),
  );

/** Saves within so many milliseconds are brought up to date together. */
const GATHERED = 150;
const EVERY = 30_000;

/** What waits, and what runs, in this process. */
interface Paces {
  readonly waiting: Map<string, NodeJS.Timeout>;
  readonly running: Set<string>;
}

const globals = globalThis as { oikonPaces?: Paces };

/**
 * From now on: soon after a save of this process, and for what other processes left or a timetable asks for, twice a minute. Once for
 * each process; where two take the same on, the second finds nothing left.
 */
export function startPaces(): void {
  if (globals.oikonPaces) return;
  const paces: Paces = { waiting: new Map(), running: new Set() };
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

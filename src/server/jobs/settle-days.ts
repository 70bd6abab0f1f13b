import { certain, firstIn, shiftDay } from '@/core/values';
import type { Transaction } from 'sequelize';
import { downstream, makersOther, changedRules } from '@/core/plan';
import { type CompiledCreate, isCreate, isReactingCascade, isSlower } from '@/core/rules';
import type { By } from '@/server/actions/named';
import { database } from '@/server/database/connection';
import { dayIn } from '@/server/day';
import { MOST_AHEAD } from '@/server/queries/today/notices';
import { checkPerson } from '@/server/queries/workspaces/people';
import { forgetKeys } from '@/server/store/session/answered';
import { listWorkspaces } from '@/server/actions/workspaces/make-workspace';
import { fetchRates, rateService } from '@/server/actions/records/fetch-rates';
import { fillAll } from '@/server/actions/rules/change-state';
import { log } from '@/server/log';
import { Refusal } from '@/server/refusal';
import { recomputeAfter, type RecomputeInput } from '@/server/store/bulk/recompute-after';
import { leaveMany } from '@/server/store/write/deferred-targets';
import { insertRun } from '@/server/store/write/run-row';
import { quote, run, runAlone } from '@/server/store/sql/sql';
import { type Attempt, inChange } from '@/server/store/session/transactions';
import { loadWorkspace, readWorkspace } from '@/server/store/session/workspace';

export interface Settled {
  readonly from: string;
  readonly to: string;
  /** The run that worked dated rules out again; `null` where there was none. */
  readonly run: string | null;
  readonly written: readonly { readonly rule: string; readonly records: number }[];
}

/**
 * Brings a workspace's settled day forward: conditions with relative dates hold for other records from then on, so rules that have them
 * are worked out again for every record, and what reads these, in the same transaction. Saves before it go by the day before,
 * all of them; none takes away what was never added. What acts on a change, or makes records where a condition comes to hold, does so in
 * the same run (`followTurn`). Rules of a slower pace are noted for when theirs comes round. A day that isn't later changes nothing (`null`).
 */
export async function settleDay(key: string, day: string): Promise<Settled | null> {
  if ((await loadWorkspace(key)).settledDay >= day) return null;
  return inChange(key, async (attempt) =>
    // Another process may have been quicker.
    attempt.workspace.settledDay >= day ? null : turnTo(attempt, day),
  );
}

/**
 * Sets a settled day back that lies ahead of the calendar, as after a clock that was wrong: dated rules are worked out again for today. Nothing acts
 * on that: what followed from the days that never were stays, and the ledger tells it. Refuses a day that isn't ahead.
 */
export const setDayBack = (by: By): Promise<Settled> =>
  inChange(by.workspace, async (attempt) => {
    const { workspace, transaction } = attempt;
    checkPerson(workspace, by.person);
    const today = dayIn(workspace.timeZone, await databaseClock(transaction));
    if (workspace.settledDay <= today)
      throw new Refusal(
        409,
        'day.ahead',
        `The settled day is ${workspace.settledDay}, which isn’t ahead of today, ${today}. There is nothing to set back.`,
      );
    return turnTo(attempt, today, by.person);
  });

async function databaseClock(transaction: Transaction): Promise<Date> {
  const clock = firstIn(await run<{ now: Date }>(transaction, 'SELECT clock_timestamp() AS now'));
  return clock.now;
}

/** Makes another day the settled one. Where a person sets it back nothing acts on it. */
async function turnTo(
  { workspace, transaction }: Pick<Attempt, 'workspace' | 'transaction'>,
  day: string,
  person: string | null = null,
): Promise<Settled> {
  const from = workspace.settledDay;
  const s = quote(workspace.schema);
  await run(transaction, `UPDATE ${s}._state SET settled_day = $1, day_problem = NULL`, [day]);
  const fresh = await readWorkspace(transaction, workspace);
  const dated = changedRules(fresh.plan, workspace.plan);
  const wanted = new Set([...dated, ...dated.flatMap((rule) => downstream(fresh.plan, rule))]);
  const chain = fresh.plan.rules.filter((rule) => wanted.has(rule));
  const makers = new Map(
    makersOther(fresh.plan, workspace.plan).map(({ rule, from: was }) => [rule.id, was] as const),
  );
  if (chain.length + makers.size === 0) return { from, to: day, run: null, written: [] };
  const info = { kind: 'day', person, note: `The settled day is ${day}.` } as const;
  const runId = await insertRun(transaction, workspace.schema, info);
  const now = chain.filter((rule) => !isSlower(rule));
  for (const rule of chain.filter(isSlower))
    await leaveMany(transaction, workspace.schema, { rule: rule.id, run: runId });
  const written = await fillAll(transaction, fresh, now, runId, { actingOf: () => 'onChange' });
  const types = new Set(
    now.flatMap(({ writes, id }) =>
      written.some(({ rule, records }) => rule === id && records > 0) ? [writes.type] : [],
    ),
  );
  const followed =
    day < from ? [] : await followTurn({ transaction, workspace: fresh, run: runId }, { makers, types });
  return { from, to: day, run: runId, written: [...written, ...followed] };
}

interface DayTurned {
  /** Rules that make records and mean something else since the day turned, with what they meant. */
  readonly makers: ReadonlyMap<string, CompiledCreate>;
  /** Types of which the day changed records. */
  readonly types: ReadonlySet<string>;
}

/**
 * What rules that cascade or make records do where the day turned. Where one of them can't, the day is settled all the same, and the run says
 * what was left: a day that stands still would make every dated value stale.
 */
async function followTurn(
  { transaction, workspace, run: runId }: Pick<RecomputeInput, 'transaction' | 'workspace' | 'run'>,
  { makers, types }: DayTurned,
): Promise<Settled['written']> {
  const acts = workspace.plan.turns.some(
    (rule) =>
      makers.has(rule.id) ||
      ((isReactingCascade(rule) || isCreate(rule)) &&
        [...rule.reads, rule.writes].some((ref) => types.has(ref.type))),
  );
  if (!acts) return [];
  await run(transaction, 'SAVEPOINT turned');
  try {
    const written = { transaction, workspace, run: runId, types: [...types] };
    const filled = await recomputeAfter({ ...written, turned: makers });
    return filled.flatMap(({ rule, records }) => (records > 0 ? [{ rule: rule.id, records }] : []));
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    await run(transaction, 'ROLLBACK TO SAVEPOINT turned');
    const left = `${error.message} What would have followed from the day was left.`;
    log.warn({ workspace: workspace.key, code: error.code }, left);
    await run(
      transaction,
      `UPDATE ${quote(workspace.schema)}._run SET note = left(note || ' ' || $2, 500) WHERE id = $1`,
      [runId, left],
    );
    return [];
  }
}

/**
 * Settles the day of each workspace, or of those with these keys, by its own time zone. One that can't be settled now is tried again the next time. A day that is more than two ahead
 * of the database's clock isn't settled but told: days that are settled by a clock that is wrong can't be taken back.
 */
export async function settleDays(now: Date, keys: readonly string[] | null = null): Promise<void> {
  const truly = await database().transaction(databaseClock);
  await forgetKeys('public');
  for (const key of keys ?? (await listWorkspaces()).map((one) => one.key)) {
    try {
      const { schema, timeZone, settledDay } = await loadWorkspace(key);
      await forgetKeys(schema);
      const day = dayIn(timeZone, now);
      if (day > certain(shiftDay(dayIn(timeZone, truly), MOST_AHEAD))) {
        await tellClock(key, day, dayIn(timeZone, truly));
        continue;
      }
      const settled = day > settledDay ? await settleDay(key, day) : null;
      if (settled) log.info({ workspace: key, ...settled }, 'a day was settled');
      else await tellClock(key, null, day);
    } catch (error) {
      log.warn({ err: error, workspace: key }, 'a workspace’s day could not be settled; it is tried again');
    }
    await fetchRatesOf(key, now);
  }
}

/** Notes, where it isn't noted yet, that the server's clock is wrong, or that it isn't any more (`day` is `null`). */
async function tellClock(key: string, day: string | null, truly: string): Promise<void> {
  const { schema } = await loadWorkspace(key);
  const problem =
    day === null
      ? null
      : `The server’s clock shows ${day}, and the database’s ${truly}. The day isn’t settled until they agree: correct the clock that is wrong.`;
  const changed = await runAlone(
    `UPDATE ${quote(schema)}._state SET day_problem = $1 WHERE day_problem IS DISTINCT FROM $1 RETURNING 1`,
    [problem],
  );
  if (changed.length > 0 && problem !== null) log.error({ workspace: key }, problem);
}

/** By workspace: when its rates are asked for again after a failure, and how long was waited before. */
const askingAgain = new Map<string, { readonly at: number; readonly pause: number }>();
const FIRST_PAUSE = 60_000;
const LONGEST_PAUSE = 3_600_000;

/**
 * The rates of the settled day, where a service is set up and the workspace holds rates: once a day, and where that fails again after a minute, two,
 * four, up to an hour.
 */
export async function fetchRatesOf(key: string, now: Date): Promise<void> {
  const waits = askingAgain.get(key);
  if (waits && waits.at > now.getTime()) return;
  try {
    const { model, schema, settledDay } = await loadWorkspace(key);
    if (!rateService() || !model.rates) return;
    const state = firstIn(
      await runAlone<{ asked: boolean }>(
        `SELECT COALESCE(rates_day >= $1, false) AS asked FROM ${quote(schema)}._state`,
        [settledDay],
      ),
    );
    if (state.asked) return;
    const fetched = await fetchRates({ workspace: key, person: null });
    await runAlone(`UPDATE ${quote(schema)}._state SET rates_day = $1`, [settledDay]);
    askingAgain.delete(key);
    if (fetched.made > 0) log.info({ workspace: key, ...fetched }, 'rates were fetched');
  } catch (error) {
    const pause = Math.min(waits ? waits.pause * 2 : FIRST_PAUSE, LONGEST_PAUSE);
    askingAgain.set(key, { at: now.getTime() + pause, pause });
    log.warn(
      { err: error, workspace: key, seconds: pause / 1_000 },
      'rates could not be fetched; they are asked for again',
    );
  }
}

const EVERY = 60_000;
const globals = globalThis as { oikonSweep?: NodeJS.Timeout };

/** Settles days from now on, once a minute; once for each process. */
export function startSettling(): void {
  if (globals.oikonSweep) return;
  const sweep = () =>
    void settleDays(new Date()).catch((error: unknown) => {
      log.warn({ err: error }, 'days could not be settled; it is tried again');
    });
  globals.oikonSweep = setInterval(sweep, EVERY);
  globals.oikonSweep.unref();
  sweep();
}

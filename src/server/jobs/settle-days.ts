import { Restraint } from '@/core/engine';
import { downstream, makersOther, meaningOther } from '@/core/plan';
import { type CompiledCreate, isCreate, isHandOn, isSlower } from '@/core/rules';
import { dayIn } from '../day';
import { listWorkspaces } from '../actions/make-workspace';
import { fetchRates, rateService } from '../actions/fetch-rates';
import { fillAll } from '../actions/write-rules';
import { log } from '../log';
import { Refusal } from '../refusal';
import { fillAfter, type FillAfterInput } from '../store/fill-after';
import { leaveMany } from '../store/later';
import { insertRun } from '../store/run-writer';
import { quote, run } from '../store/sql';
import { inChange } from '../store/transactions';
import { loadWorkspace, readWorkspace } from '../store/workspace';

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
  return inChange(key, async ({ workspace, transaction }) => {
    const from = workspace.settledDay;
    if (from >= day) return null; // another process was quicker
    const s = quote(workspace.schema);
    await run(transaction, `UPDATE ${s}._state SET settled_day = $1`, [day]);
    const fresh = await readWorkspace(transaction, workspace);
    const dated = meaningOther(fresh.plan, workspace.plan);
    const wanted = new Set([...dated, ...dated.flatMap((rule) => downstream(fresh.plan, rule))]);
    const chain = fresh.plan.rules.filter((rule) => wanted.has(rule));
    const makers = new Map(
      makersOther(fresh.plan, workspace.plan).map(({ rule, from: was }) => [rule.id, was] as const),
    );
    if (chain.length + makers.size === 0) return { from, to: day, run: null, written: [] };
    const info = { kind: 'day', person: null, note: `The settled day is ${day}.` } as const;
    const runId = await insertRun(transaction, workspace.schema, info);
    const now = chain.filter((rule) => !isSlower(rule));
    for (const rule of chain.filter(isSlower))
      await leaveMany(transaction, workspace.schema, { rule: rule.id, run: runId });
    const written = await fillAll(transaction, fresh, now, runId);
    const types = new Set(
      now.flatMap(({ writes, id }) =>
        written.some(({ rule, records }) => rule === id && records > 0) ? [writes.type] : [],
      ),
    );
    const followed = await followTurn({ transaction, workspace: fresh, run: runId }, { makers, types });
    return { from, to: day, run: runId, written: [...written, ...followed] };
  });
}

interface Turn {
  /** Rules that make records and mean something else since the day turned, with what they meant. */
  readonly makers: ReadonlyMap<string, CompiledCreate>;
  /** Types of which the day changed records. */
  readonly types: ReadonlySet<string>;
}

/**
 * What rules that hand on or make records do where the day turned. Where one of them can't, the day is settled all the same, and the run says
 * what was left: a day that stands still would make every dated value stale.
 */
async function followTurn(
  { transaction, workspace, run: runId }: Pick<FillAfterInput, 'transaction' | 'workspace' | 'run'>,
  { makers, types }: Turn,
): Promise<Settled['written']> {
  const acts = workspace.plan.turns.some(
    (rule) =>
      makers.has(rule.id) ||
      ((isHandOn(rule) || isCreate(rule)) && [...rule.reads, rule.writes].some((ref) => types.has(ref.type))),
  );
  if (!acts) return [];
  await run(transaction, 'SAVEPOINT turned');
  try {
    const rest = { from: 0, restraint: new Restraint([], () => false), types: [...types] };
    const filled = await fillAfter({ transaction, workspace, run: runId, rest, turned: makers });
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

/** Settles each workspace's day by its own time zone. One that can't be settled now is tried again the next time. */
export async function settleDays(now: Date): Promise<void> {
  for (const { key } of await listWorkspaces()) {
    try {
      const { timeZone } = await loadWorkspace(key);
      const settled = await settleDay(key, dayIn(timeZone, now));
      if (settled) log.info({ workspace: key, ...settled }, 'a day was settled');
      if (settled) await fetchRatesOf(key);
    } catch (error) {
      log.warn({ err: error, workspace: key }, 'a workspace’s day could not be settled; it is tried again');
    }
  }
}

/** The rates of the new day, where a service is set up and the workspace holds rates. */
async function fetchRatesOf(key: string): Promise<void> {
  if (!rateService() || !(await loadWorkspace(key)).model.rates) return;
  const fetched = await fetchRates({ workspace: key, person: null });
  if (fetched.made > 0) log.info({ workspace: key, ...fetched }, 'rates were fetched');
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

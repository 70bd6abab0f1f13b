import { certain, firstIn, writeCount } from '@/core/values';
import { type Claim, propagate, type Continuation, type Ripple, runWith, type WireEdit } from '@/core/engine';
import { type StepDown, typeIn } from '@/core/model';
import { type CompiledRule, isCreate, isReactingCascade } from '@/core/rules';
import { type RippleView } from '@/core/verify';
import { v7 as newId } from 'uuid';
import { refuse, Refusal } from '@/server/refusal';
import { COUNTED_ONCE, countLater } from '@/server/store/write/run-counts';
import { boundsNow } from '@/server/store/session/bounds';
import { forgetRows, wasBulk, noteBulk } from '@/server/store/session/row-cache';
import { LockOrderMissed } from '@/server/store/run/lock-rows';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { recomputeAfter, type RecomputeInput } from '@/server/store/bulk/recompute-after';
import { membersSql } from '@/server/store/rule-sql/route-joins';
import { unknownPerson } from '@/server/queries/workspaces/people';
import { refuseEdits } from './saving/refuse-edits';
import { readSave, type ReadSave } from './saving/read-save';
import type { Saved, SaveInput } from './saving/save';
import { saveAsSeen } from './saving/save-as-seen';
import { namedIn, ripplesView } from './saving/told-ripple';
import { isClash } from '@/server/store/session/conflicts';
import { run } from '@/server/store/sql/sql';
import { type Attempt, inSave, inSnapshot, NeedsExclusiveLock } from '@/server/store/session/transactions';

/** Saves edits and all that follows from them as one run: all of it or nothing. */
export async function saveEdits(input: SaveInput): Promise<Saved> {
  return (await saveAsSeen(input)) ?? saveLooking(input);
}

/** Looks at the records first, and locks them. */
async function saveLooking(input: SaveInput): Promise<Saved> {
  let learnt: readonly Claim[] = [];
  const isRetry = (error: unknown): boolean => {
    if (error instanceof LockOrderMissed) learnt = error.claims;
    return error instanceof LockOrderMissed || error instanceof GuessedWrong || isClash(error);
  };
  const { run, read, ripple, driver, isAllItsOwn } = await inSave(
    input.workspace,
    isRetry,
    async (attempt) => {
      const ready = makeReady(attempt, input);
      await saveOnce(attempt, ready, learnt);
      return ready;
    },
    {
      beginsAlone: (workspace) => wasBulk(workspace, input.edits),
      mayWantAlone: !input.asksWhereMany,
    },
  ).catch(async (error: unknown) => {
    throw error instanceof NeedsExclusiveLock ? await manyRefused(input.workspace, error) : error;
  });
  driver.remember(isAllItsOwn);
  return { run, ids: read.ok ? read.edits.map((edit) => edit.id) : [], ripple: certain(ripple) };
}

/** Nothing is saved before a person knows how many records it may reach. */
async function manyRefused(
  key: string,
  { rule, sources, records: known }: NeedsExclusiveLock,
): Promise<Refusal> {
  const { model, schema } = await loadWorkspace(key);
  const records = known ?? (await countBeneath({ model, schema }, rule, sources));
  const { plural } = typeIn(model, rule.writes.type);
  const message = `“${rule.name}” would go over ${writeCount(records)} ${plural}. Nothing is saved yet: save it now, while others wait, or have it saved soon after.`;
  return new Refusal(409, 'save.many', message, [], { records, rule: rule.id, name: rule.name });
}

async function countBeneath(
  schema: Pick<LoadedWorkspace, 'model' | 'schema'>,
  rule: CompiledRule,
  sources: readonly string[],
): Promise<number> {
  if (!isReactingCascade(rule)) return 0;
  const { from, parent, alias } = membersSql(schema, rule.route as readonly StepDown[]);
  const found = firstIn(
    await inSnapshot((transaction) =>
      run<{ records: number }>(
        transaction,
        `SELECT count(*)::int AS records FROM ${from} WHERE ${alias}.deleted_run IS NULL AND ${parent} = ANY($1::uuid[])`,
        [sources],
      ),
    ),
  );
  return found.records;
}

/** A save was about to be refused for what this process remembered: it looks for itself. */
class GuessedWrong extends Error {}

/** What a save works with: read before the workspace's epoch is known, used only when it is the right one. */
interface Ready extends ReadSave {
  readonly edits: readonly WireEdit[];
  readonly driver: PostgresDriver;
  /** The run's number, once it is written. */
  run: string | null;
  ripple: RippleView | null;
  /** Nothing was written but by its driver. */
  isAllItsOwn: boolean;
  readonly along: SaveInput['along'];
}

function makeReady({ workspace, transaction, isAlone, begun }: Attempt, input: SaveInput): Ready {
  const known = readSave(workspace, input);
  const driver = new PostgresDriver(workspace, transaction, known.info, isAlone, begun);
  if (known.read.ok) driver.lookAhead(known.read.edits);
  return {
    ...known,
    ...{ edits: input.edits, driver },
    run: null,
    ripple: null,
    isAllItsOwn: input.along === undefined,
    along: input.along,
  };
}

async function saveOnce(
  { workspace, transaction, isAlone, begun, last, meanwhile }: Attempt,
  ready: Ready,
  learnt: readonly Claim[],
): Promise<void> {
  const { model, plan } = workspace;
  const { read, driver, facts } = ready;
  if (!ready.isPersonKnown || !read.ok) await begun;
  if (!ready.isPersonKnown) throw unknownPerson();
  if (!read.ok) throw refuse(422, read.problems);
  const { along } = ready;
  if (along) await begun.then(() => along.before(transaction, workspace));
  const outcome = await runWith(
    (need) => driver.answer(need),
    propagate({
      ...{ model, plan, edits: read.edits, learnt, newId, facts, isAlone },
      ...{ stopsForBulk: isAlone, bounds: boundsNow() },
    }),
  );
  await begun;
  if (outcome.kind === 'refused') {
    if (driver.isGuessing) {
      forgetRows(workspace, read.edits);
      throw new GuessedWrong();
    }
    throw refuseEdits(outcome.problems);
  }
  if (isAlone) noteBulk(workspace, ready.edits, { isMany: driver.hasReachedMany });
  const named = await driver.rowsOf(namedIn(workspace, outcome.ripple));
  let { ripple } = outcome;
  if (outcome.rest) {
    ready.isAllItsOwn = false;
    ready.run = await driver.finish();
    ripple = await goOn({ workspace, transaction, run: certain(ready.run) }, ripple, outcome.rest);
    if (along) await along.after(transaction, workspace, ready.run);
  } else if (along) {
    ready.run = await driver.finish();
    await along.after(transaction, workspace, ready.run);
  } else if (ripple.many.some(({ records }) => records >= COUNTED_ONCE)) {
    ready.run = await driver.finish();
    if (ready.run !== null) await countLater(transaction, workspace.schema, ready.run);
  } else last(async () => void (ready.run = await driver.finish()));
  meanwhile(() => void (ready.ripple = ripplesView(workspace, named, ripple)));
}

/** Works out what follows from so many records that they were written as a set, as after an import; it is told by numbers. */
export async function goOn(
  running: Pick<RecomputeInput, 'transaction' | 'workspace' | 'run'>,
  ripple: Ripple,
  rest: Continuation,
): Promise<Ripple> {
  const { changes, events, many } = ripple;
  const types = [...new Set([...changes, ...events, ...many].map(({ type }) => type))];
  const appeared = new Set(events.map(({ type }) => type));
  const filled = await recomputeAfter({ ...running, rest, types, appeared, entered: enteredIn(rest) });
  const more = filled.flatMap(({ rule, records, overruled }) =>
    isCreate(rule) || (records === 0 && overruled === undefined)
      ? []
      : [{ ...rule.writes, rule: rule.id, records, ...(overruled === undefined ? {} : { overruled }) }],
  );
  return { ...ripple, many: [...many, ...more] };
}

/** The records on which a person entered a field in this run. */
const enteredIn =
  ({ writePrecedence }: Continuation): RecomputeInput['entered'] =>
  (ref, binds) => {
    const ids = writePrecedence.enteredIn(ref);
    return ids.length > 0 ? `SELECT unnest(${binds.add(ids, 'uuid[]')})` : null;
  };

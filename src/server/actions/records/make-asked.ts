import { firstIn } from '@/core/values';
import { type Claim, propagate, reactionFails, type Ripple, runWith } from '@/core/engine';
import { type AnyCompiled, type CompiledCreate, isCreate } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { refuse, Refusal } from '@/server/refusal';
import { LockOrderMissed } from '@/server/store/run/lock-rows';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
import { recomputeAfter } from '@/server/store/bulk/recompute-after';
import { countsOf, makeOthers } from '@/server/store/bulk/make-others';
import { makeSet, othersOf, type Prepared, prepareSet } from '@/server/store/sets/bulk-create-sql';
import { runContextNow } from '@/server/store/write/run-context';
import { insertRun, type RunInfo } from '@/server/store/write/run-row';
import { columnOf, quote, run, tableOf } from '@/server/store/sql/sql';
import { type Attempt, withExclusiveLock, inSave } from '@/server/store/session/transactions';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** Most records that are locked one by one, beside other saves. */
export const MOST_LOCKED = 1_000;

/** The records for which a rule may make something now: of one for each, those for which none was made. */
export async function askable(
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  rule: CompiledCreate,
  /** Where there are more one more than these is answered. */
  most = MOST_LOCKED,
): Promise<string[]> {
  const { type } = rule.writes;
  const isOpen =
    rule.definition.each === 'once'
      ? `AND NOT EXISTS (SELECT FROM ${quote(schema)}._made m WHERE m.rule = $1 AND m.source = t.id)`
      : 'AND $1::uuid IS NOT NULL';
  const found = await run<{ id: string }>(
    transaction,
    `SELECT t.id::text FROM ${tableOf(schema, type)} t WHERE t.deleted_run IS NULL ${isOpen} ORDER BY t.id LIMIT ${most + 1}`,
    [rule.id],
  );
  return found.map(({ id }) => id);
}

export interface MakeInput {
  readonly workspace: string;
  /** Who asked for it; `null`: Oikon itself. */
  readonly person: string | null;
  /** Live rules that make records. */
  readonly rules: readonly string[];
  readonly note?: string;
  /** Takes the work on in the transaction that does it, before anything else; where it answers no, nothing is done. */
  readonly claim?: (transaction: Transaction) => Promise<boolean>;
}

export interface MadeAsked {
  /** `null` where nothing was made or proposed. */
  readonly run: string | null;
  readonly made: number;
  readonly proposed: number;
}

/** More are looked at than are locked one by one. */
class TooMany extends Error {}

/**
 * Makes what live rules make for all records that meet their conditions now. Few are locked and made one by one, beside other saves, in
 * one run; of many each rule has a run of its own, in which they are made by statements over whole sets while nobody else saves.
 */
export async function makeAsked(input: MakeInput): Promise<MadeAsked> {
  try {
    return await byRecord(input);
  } catch (error) {
    if (!(error instanceof TooMany)) throw error;
  }
  let all = NOTHING;
  for (const rule of new Set(input.rules)) {
    const { run, made, proposed } = await inSets(input, rule);
    all = { run: run ?? all.run, made: all.made + made, proposed: all.proposed + proposed };
  }
  return all;
}

const NOTHING: MadeAsked = { run: null, made: 0, proposed: 0 };

async function byRecord(input: MakeInput): Promise<MadeAsked> {
  let learnt: readonly Claim[] = [];
  let made = NOTHING;
  const isRetry = (error: unknown): boolean => {
    if (error instanceof LockOrderMissed) learnt = error.claims;
    return error instanceof LockOrderMissed;
  };
  await inSave(input.workspace, isRetry, async (attempt) => {
    made = NOTHING;
    await attempt.begun;
    const { workspace, transaction } = attempt;
    if (input.claim && !(await input.claim(transaction))) return;
    const makers = makersIn(workspace, input.rules);
    if (makers.length === 0) return;
    const asked = new Map<string, readonly string[]>();
    let number = 0;
    for (const rule of makers) {
      const ids = await askable(transaction, workspace, rule);
      number += ids.length;
      if (number > MOST_LOCKED) throw new TooMany();
      asked.set(rule.id, ids);
    }
    const { driver, ripple } = await oneByOne(attempt, input, asked, learnt);
    attempt.last(async () => void (made = { run: await driver.finish(), ...countsOf(ripple) }));
  });
  return made;
}

async function oneByOne(
  { workspace, transaction, isAlone, begun }: Attempt,
  input: MakeInput,
  asked: ReadonlyMap<string, readonly string[]>,
  learnt: readonly Claim[] = [],
): Promise<{ readonly driver: PostgresDriver; readonly ripple: Ripple }> {
  const { model, plan } = workspace;
  const facts = runContextNow(input.person);
  const info = { ...infoOf(input, makersIn(workspace, [...asked.keys()])), at: facts.moment };
  const driver = new PostgresDriver(workspace, transaction, info, isAlone, begun);
  const outcome = await runWith(
    (need) => driver.answer(need),
    propagate({ model, plan, edits: [], asked, learnt, newId, facts, isAlone }),
  );
  if (outcome.kind === 'refused') throw refuse(422, outcome.problems);
  return { driver, ripple: outcome.ripple };
}

const makersIn = ({ plan }: LoadedWorkspace, rules: readonly string[]): CompiledCreate[] =>
  plan.turns.filter(isCreate).filter(({ id }) => rules.includes(id));

function infoOf({ person, note }: MakeInput, makers: readonly CompiledCreate[]): RunInfo {
  return {
    ...{ kind: 'pace', person, note: (note ?? makers.map(({ name }) => name).join('; ')).slice(0, 500) },
    ...(makers.length === 1 ? { ruleVersion: firstIn(makers).version } : {}),
  };
}

/** What one rule makes for many records, and all that follows from it. */
const inSets = (input: MakeInput, id: string): Promise<MadeAsked> =>
  withExclusiveLock(input.workspace, async (attempt) => {
    const { workspace, transaction } = attempt;
    const [rule] = makersIn(workspace, [id]);
    if (!rule || (input.claim && !(await input.claim(transaction)))) return NOTHING;
    const facts = runContextNow(input.person);
    const making = { transaction, workspace, rule, facts };
    const prepared = await prepareSet(making);
    checkPrepared(rule, prepared);
    if (prepared.made + prepared.others === 0) return NOTHING;
    const runId = await insertRun(transaction, workspace.schema, {
      ...infoOf(input, [rule]),
      at: facts.moment,
    });
    await makeSet(making, prepared, runId);
    const others = await makeOthers(making, runId, await othersOf(transaction, prepared));
    // Without numbers of it what follows was planned as for a table as it was before.
    const isRead = ({ id: other, reads }: AnyCompiled) =>
      other !== id && reads.some(({ type }) => type === rule.makes);
    if (workspace.plan.turns.some(isRead))
      await run(transaction, `ANALYZE ${tableOf(workspace.schema, rule.makes)}`);
    const madeIn = `FROM ${tableOf(workspace.schema, rule.makes)} WHERE created_run = ${BigInt(runId)}`;
    await recomputeAfter({
      ...{ transaction, workspace, run: runId, done: id },
      written: {
        type: rule.makes,
        also: isNamedBySource(rule) ? [rule.writes.type] : [],
        parents: (link) => `SELECT DISTINCT ${columnOf(link)} ${madeIn}`,
      },
    });
    return { run: runId, made: prepared.made + others.made, proposed: others.proposed };
  });

const isNamedBySource = ({ writes, given }: CompiledCreate): boolean =>
  writes.field !== '' || given.length > 0;

/** Refuses what can't be made. */
export function checkPrepared(rule: CompiledCreate, { failed }: Prepared): void {
  if (failed !== null) throw new Refusal(422, 'rule.reaction', reactionFails(rule, failed));
}

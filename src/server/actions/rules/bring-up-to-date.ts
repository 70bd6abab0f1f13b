import { firstIn } from '@/core/values';
import { type Claim, propagate, type RecordRef, runWith } from '@/core/engine';
import { fieldIn } from '@/core/model';
import { type CompiledRule, isSlower } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { refuse, Refusal } from '@/server/refusal';
import { LockOrderMissed } from '@/server/store/run/lock-rows';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
import { recomputeAfter } from '@/server/store/bulk/recompute-after';
import { countLater, takeLater, takeMany } from '@/server/store/write/deferred-targets';
import { runContextNow } from '@/server/store/write/run-context';
import { insertRun, type RunInfo } from '@/server/store/write/run-row';
import { type Attempt, withExclusiveLock, inSave } from '@/server/store/session/transactions';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { checkPerson } from '@/server/queries/workspaces/people';

export interface BringInput {
  readonly workspace: string;
  /** Who asked for it; `null`: Oikon itself. */
  readonly person: string | null;
  /** Live rules of a slower pace, by id; others are of no account. */
  readonly rules: readonly string[];
  /** Takes the work on in the transaction that does it, before anything else; where it answers no, nothing is done. */
  readonly claim?: (transaction: Transaction) => Promise<boolean>;
}

export interface BroughtUpToDate {
  /** `null` where nothing had to be written. */
  readonly run: string | null;
  /** How many values were written, those of rules that read these rules' among them. */
  readonly values: number;
}

/** More wait than are worked out record by record. */
class TooMany extends Error {}

/**
 * Works out what waits for rules of a slower pace, in one run, with all that follows from it. Up to a number record by record, as a save
 * does, beside other saves; more of them by statements over whole sets, while nobody else saves.
 */
export async function bringUpToDate(input: BringInput): Promise<BroughtUpToDate> {
  try {
    return await byRecord(input, async ({ workspace, transaction }, rules) => {
      const ids = rules.map(({ id }) => id);
      if ((await countLater(transaction, workspace.schema, ids)) === null) throw new TooMany();
      return takeLater(transaction, workspace.schema, ids);
    });
  } catch (error) {
    if (!(error instanceof TooMany)) throw error;
    return inSets(input);
  }
}

export interface FieldOf extends RecordRef {
  readonly field: string;
}

/**
 * Works one field of one record out now, whatever waits. Refuses a field that no rule of a slower pace keeps: others are up to date.
 */
export async function workOutNow(
  input: Omit<BringInput, 'rules'> & { readonly at: FieldOf },
): Promise<BroughtUpToDate> {
  const { type, id, field } = input.at;
  const { model, plan } = await loadWorkspace(input.workspace);
  const keeper = model.field(type, field) ? plan.keeper({ type, field }) : undefined;
  if (!keeper || !isSlower(keeper)) {
    const name = model.field(type, field) ? fieldIn(model, type, field).name : field;
    const message = keeper
      ? `${name} is worked out with every save, so it is up to date.`
      : `No live rule keeps ${name}, so there is nothing to work out.`;
    throw new Refusal(409, 'pace.now', message);
  }
  return byRecord({ ...input, rules: [keeper.id] }, (_, rules) =>
    Promise.resolve(new Map(rules.map((rule) => [rule.id, [id]]))),
  );
}

type Take = (
  attempt: Attempt,
  rules: readonly CompiledRule[],
) => Promise<ReadonlyMap<string, readonly string[]>>;

/** One run of the engine. `take` says for which targets of the rules, in the run's transaction and before its first lock. */
async function byRecord(input: BringInput, take: Take): Promise<BroughtUpToDate> {
  let learnt: readonly Claim[] = [];
  let brought: { run: string | null; values: number } = { run: null, values: 0 };
  const isRetry = (error: unknown): boolean => {
    if (error instanceof LockOrderMissed) learnt = error.claims;
    return error instanceof LockOrderMissed;
  };
  await inSave(input.workspace, isRetry, async (attempt) => {
    brought = { run: null, values: 0 };
    await attempt.begun;
    const { workspace, transaction, isAlone, begun, last } = attempt;
    const { model, plan } = workspace;
    if (input.person !== null) checkPerson(workspace, input.person);
    if (input.claim && !(await input.claim(transaction))) return;
    const rules = waitingIn(workspace, input);
    const due = await take(attempt, rules);
    if (due.size === 0) return;
    const facts = runContextNow(input.person);
    const info = { ...infoOf(input, rules), at: facts.moment };
    const driver = new PostgresDriver(workspace, transaction, info, isAlone, begun);
    const outcome = await runWith(
      (need) => driver.answer(need),
      propagate({ model, plan, edits: [], due, learnt, newId, facts }),
    );
    if (outcome.kind === 'refused') throw refuse(422, outcome.problems);
    brought.values = outcome.ripple.changes.length;
    last(async () => void (brought.run = await driver.finish()));
  });
  return brought;
}

function inSets(input: BringInput): Promise<BroughtUpToDate> {
  return withExclusiveLock(input.workspace, async ({ workspace, transaction }) => {
    if (input.claim && !(await input.claim(transaction))) return { run: null, values: 0 };
    const rules = waitingIn(workspace, input);
    const due = await takeMany(
      transaction,
      workspace.schema,
      rules.map(({ id }) => id),
    );
    if (due.size === 0) return { run: null, values: 0 };
    const run = await insertRun(transaction, workspace.schema, infoOf(input, rules));
    const filled = await recomputeAfter({ transaction, workspace, run, due });
    return { run, values: filled.reduce((sum, { records }) => sum + records, 0) };
  });
}

/** The rules as they are live now, each once. */
function waitingIn({ plan }: LoadedWorkspace, { rules }: BringInput): CompiledRule[] {
  const wanted = new Map<string, CompiledRule>();
  for (const rule of plan.rules)
    if (rules.includes(rule.id) && isSlower(rule) && !wanted.has(rule.id)) wanted.set(rule.id, rule);
  return [...wanted.values()];
}

function infoOf({ person }: BringInput, rules: readonly CompiledRule[]): RunInfo {
  return {
    ...{
      kind: 'pace',
      person,
      note: rules
        .map(({ name }) => name)
        .join('; ')
        .slice(0, 500),
    },
    ...(rules.length === 1 ? { ruleVersion: firstIn(rules).version } : {}),
  };
}

import { type Claim, propagate, type Ripple, runWith } from '@/core/engine';
import { typeIn } from '@/core/model';
import { type CompiledCreate, isCreate } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { refuse, Refusal } from '../refusal';
import { LockOrderMissed, PostgresDriver } from '../store/driver';
import { quote, run, tableOf } from '../store/sql';
import type { RunInfo } from '../store/run-writer';
import { inSave, WantsAlone } from '../store/transactions';
import type { LoadedWorkspace } from '../store/workspace';

/** Most records that a rule looks at in one run at set times, or as it is taken live. */
export const MOST_ASKED = 20_000;

/** Most records that are locked one by one; for more nobody else saves meanwhile. */
const MOST_LOCKED = 1_000;

/** The records for which a rule may make something now: of one for each, those for which none was made. Refuses more than go into one run. */
export async function askable(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  rule: CompiledCreate,
): Promise<string[]> {
  const { type } = rule.writes;
  const isOpen =
    rule.definition.each === 'once'
      ? `AND NOT EXISTS (SELECT FROM ${quote(schema)}.made m WHERE m.rule = $1 AND m.source = t.id)`
      : 'AND $1::uuid IS NOT NULL';
  const found = await run<{ id: string }>(
    transaction,
    `SELECT t.id::text FROM ${tableOf(schema, type)} t WHERE t.deleted_run IS NULL ${isOpen} ORDER BY t.id LIMIT ${MOST_ASKED + 1}`,
    [rule.id],
  );
  if (found.length <= MOST_ASKED) return found.map(({ id }) => id);
  const message = `“${rule.name}” would look at more than ${MOST_ASKED.toLocaleString('en')} ${typeIn(model, type).plural} at once. Nothing was made: let it act on what comes from now on, or edit the list in parts.`;
  throw new Refusal(409, 'make.size', message);
}

export interface MakeInput {
  readonly workspace: string;
  /** Who asked for it; `null`: Oikon itself. */
  readonly person: string | null;
  /** Live rules that make records. */
  readonly rules: readonly string[];
  readonly note?: string;
}

export interface MadeAsked {
  /** `null` where nothing was made or proposed. */
  readonly run: string | null;
  readonly made: number;
  readonly proposed: number;
}

/** Makes, in one run, what live rules make for all records that meet their conditions now. */
export async function makeAsked({ workspace: key, person, rules, note }: MakeInput): Promise<MadeAsked> {
  let learnt: readonly Claim[] = [];
  let made: MadeAsked = { run: null, made: 0, proposed: 0 };
  const isRetry = (error: unknown): boolean => {
    if (error instanceof LockOrderMissed) learnt = error.claims;
    return error instanceof LockOrderMissed;
  };
  await inSave(key, isRetry, async ({ workspace, transaction, isAlone, begun, last }) => {
    await begun;
    const { model, plan } = workspace;
    const makers = plan.turns.filter(isCreate).filter(({ id }) => rules.includes(id));
    if (makers.length === 0) return;
    const asked = new Map<string, readonly string[]>();
    for (const rule of makers) asked.set(rule.id, await askable(transaction, workspace, rule));
    const many = [...asked.values()].reduce((sum, ids) => sum + ids.length, 0) > MOST_LOCKED;
    if (many && !isAlone) throw new WantsAlone();
    const info: RunInfo = {
      ...{ kind: 'pace', person, note: (note ?? makers.map(({ name }) => name).join('; ')).slice(0, 500) },
      ...(makers.length === 1 ? { ruleVersion: makers[0]!.version } : {}),
    };
    const driver = new PostgresDriver(workspace, transaction, info, isAlone, begun);
    const outcome = await runWith(
      (need) => driver.answer(need),
      propagate({ model, plan, edits: [], asked, learnt, newId, isAlone }),
    );
    if (outcome.kind === 'refused') throw refuse(422, outcome.problems);
    last(async () => void (made = { run: await driver.finish(), ...countsOf(outcome.ripple) }));
  });
  return made;
}

export const countsOf = ({ events, proposals }: Ripple): Pick<MadeAsked, 'made' | 'proposed'> => ({
  made: events.filter(({ kind, rule }) => kind === 'created' && rule !== undefined).length,
  proposed: proposals.filter(({ isDone }) => !isDone).length,
});

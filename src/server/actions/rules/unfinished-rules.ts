import type { UnfinishedRule } from '@/core/api';
import { firstIn, writeCount } from '@/core/values';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { type By, removeRow, saveBy } from '@/server/actions/named';
import type { UnfinishedInput } from '@/server/forms/types';
import { personName } from '@/server/queries/run-head';
import { Refusal } from '@/server/refusal';
import { inSnapshot } from '@/server/store/session/transactions';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { quote, run } from '@/server/store/sql/sql';

const COLUMNS = 'id::text, rule::text, name, note, content, person::text, at';
const MOST_UNFINISHED = 200;
/** Characters of what is kept of one. */
const LONGEST = 100_000;

type Stored = Omit<UnfinishedRule, 'person' | 'at'> & { readonly person: string | null; readonly at: Date };

/** Rules of which parts aren't chosen yet, the latest first. */
export async function unfinishedRules(key: string): Promise<UnfinishedRule[]> {
  const workspace = await loadWorkspace(key);
  return inSnapshot(async (transaction) =>
    (await readUnfinished(transaction, workspace)).map((one) => viewOf(workspace, one)),
  );
}

const readUnfinished = (transaction: Transaction, { schema }: LoadedWorkspace): Promise<Stored[]> =>
  run<Stored>(transaction, `SELECT ${COLUMNS} FROM ${quote(schema)}._unfinished_rule ORDER BY at DESC, id`);

const viewOf = (workspace: LoadedWorkspace, { person, at, ...one }: Stored): UnfinishedRule => ({
  ...one,
  person: personName(workspace, person) ?? 'somebody',
  at: at.toISOString(),
});

/**
 * Keeps a rule as far as it is written, anew or in place of what it goes on with; nothing is worked out of it. Refuses what is too long, one too many,
 * a rule that isn't there, and to go on with one that is gone.
 */
export async function keepUnfinished(by: By, input: UnfinishedInput): Promise<UnfinishedRule> {
  const { id, rule, name, note, content } = input;
  const text = JSON.stringify(content);
  if (text.length > LONGEST)
    throw new Refusal(
      422,
      'rule.unfinished',
      `A rule that is kept unfinished has at most ${writeCount(LONGEST)} characters; this one has ${writeCount(text.length)}. Make it shorter.`,
    );
  return saveBy(by, async ({ workspace, transaction }) => {
    const s = quote(workspace.schema);
    const there = await run<{ id: string }>(transaction, `SELECT id::text FROM ${s}._unfinished_rule`);
    if (id === undefined && there.length >= MOST_UNFINISHED)
      throw new Refusal(
        409,
        'rule.unfinished',
        `${MOST_UNFINISHED} rules are kept unfinished already. Finish or forget one first.`,
      );
    if (id !== undefined && !there.some((one) => one.id === id)) throw gone();
    if (
      rule !== null &&
      (await run(transaction, `SELECT FROM ${s}._rule WHERE id = $1`, [rule])).length === 0
    )
      throw new Refusal(404, 'rule.unknown', 'There is no such rule. It may have been deleted.');
    const kept = await run<Stored>(
      transaction,
      `INSERT INTO ${s}._unfinished_rule (id, rule, name, note, content, person) VALUES ($1, $2, $3, $4, $5, $6)
        ON CONFLICT (id) DO UPDATE SET name = $3, note = $4, content = $5, person = $6, at = now() RETURNING ${COLUMNS}`,
      [id ?? newId(), rule, name.trim(), note, text, by.person],
    );
    return viewOf(workspace, firstIn(kept));
  });
}

export function forgetUnfinished(by: By, id: string): Promise<void> {
  return saveBy(by, async ({ workspace, transaction }) => {
    if (!(await removeRow(transaction, workspace.schema, '_unfinished_rule', id))) throw gone();
  });
}

const gone = (): Refusal =>
  new Refusal(
    404,
    'rule.unfinished',
    'This rule isn’t kept unfinished any more: somebody finished or forgot it. Keep it anew.',
  );

import { type Answers, type Need, reactionFails, titleOf } from '@/core/engine';
import { firstIn } from '@/core/values';
import { type Transaction } from 'sequelize';
import { keepsField } from '@/server/store/write/keeps-field';
import { Refusal } from '@/server/refusal';
import { fillRules } from '@/server/store/sets/fill';
import { refuseEntered } from '@/server/store/sets/refuse-entered';
import { CascadeFailed, bulkCascadeSet } from '@/server/store/sets/bulk-cascade-sql';
import type { EnteredQuery } from '@/server/store/rule-sql/result-sql';
import { readRows } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** A statement over a whole set of records: in which transaction, and as part of which run. */
export interface OverMany {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly run: string;
}

/** Writes what a reacting cascade gives to very many, as a set. Answers how many of each part it wrote. */
export async function cascadeMany(
  { transaction, workspace, run }: OverMany,
  { parts, tellsTaken = false }: Extract<Need, { kind: 'bulkCascade' }>,
): Promise<Answers['bulkCascade']> {
  const { rule } = firstIn(parts);
  const isKept = keepsField(workspace.plan);
  try {
    return await bulkCascadeSet({
      transaction,
      schema: workspace,
      run,
      parts,
      isKept,
      tellsTaken,
    });
  } catch (error) {
    if (!(error instanceof CascadeFailed)) throw error;
    const [row] = await readRows(transaction, workspace, rule.writes.type, [error.id]);
    throw new Refusal(
      422,
      'rule.reaction',
      reactionFails(rule, row ? titleOf(workspace.model, row) : error.id),
    );
  }
}

/** Fills the targets of rules on all records, as a set. Answers for each rule how many values it wrote. */
export async function fillMany(
  { transaction, workspace, run }: OverMany,
  { rules, entered }: Extract<Need, { kind: 'fillMany' }>,
): Promise<number[]> {
  const enteredOn: EnteredQuery = ({ type, field }, binds) => {
    const ids = entered.filter((cell) => cell.type === type && cell.field === field).map(({ id }) => id);
    return ids.length > 0 ? `SELECT unnest(${binds.add(ids, 'uuid[]')})` : null;
  };
  const isKept = keepsField(workspace.plan);
  return fillRules({
    transaction,
    schema: workspace,
    rules,
    run,
    isKept,
    entered: enteredOn,
    refuse: (targets) => refuseEntered({ transaction, workspace, entered: enteredOn }, rules, targets),
  });
}

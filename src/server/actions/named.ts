import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { quote, run } from '@/server/store/sql/sql';
import { type Attempt, inSave } from '@/server/store/session/transactions';
import { checkPerson } from '@/server/queries/workspaces/people';

/** Who does something in which workspace. */
export interface By {
  readonly workspace: string;
  readonly person: string;
}

/** A save of what people keep beside the records (lists, families, proofs): no rule follows from it. Refuses people who aren't known. */
export const saveBy = <T>(
  by: By,
  work: (attempt: Pick<Attempt, 'workspace' | 'transaction'>) => Promise<T>,
): Promise<T> =>
  inSave(
    by.workspace,
    () => false,
    async ({ workspace, transaction, begun }) => {
      await begun;
      checkPerson(workspace, by.person);
      return work({ workspace, transaction });
    },
  );

const LONGEST_NAME = 80;

/** The name of a kept list, family or proof, without blanks at its ends. Refuses an empty or long one, and one of `taken` (in lower case). */
export function checkedName(
  what: 'list' | 'family' | 'proof' | 'request',
  name: string,
  taken: readonly string[],
): string {
  const trimmed = name.trim();
  if (trimmed === '' || trimmed.length > LONGEST_NAME || /\p{Cc}/u.test(trimmed)) {
    const message = `A ${what}’s name has 1 to ${LONGEST_NAME} characters on one line. Enter another.`;
    throw new Refusal(422, `${what}.name`, message);
  }
  if (taken.includes(trimmed.toLowerCase()))
    throw new Refusal(409, `${what}.taken`, `There is a ${what} “${trimmed}” already. Choose another name.`);
  return trimmed;
}

/** Removes a row by its id, as it came in. Answers whether it was there. */
export async function removeRow(
  transaction: Transaction,
  schema: string,
  table: '_saved_list' | '_sample_family' | '_proof' | '_request' | '_unfinished_rule',
  id: string,
): Promise<boolean> {
  const text = `DELETE FROM ${quote(schema)}.${quote(table)} WHERE id::text = $1 RETURNING 1`;
  return (await run(transaction, text, [id])).length > 0;
}

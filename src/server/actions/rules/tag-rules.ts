import { quote, run } from '@/server/store/sql/sql';
import { inSave } from '@/server/store/session/transactions';
import { findRules } from '@/server/queries/rules/rules';
import { Refusal } from '@/server/refusal';
import { checkPerson } from '@/server/queries/workspaces/people';
import { type By, never } from './change-state';

export interface Tagging extends By {
  readonly rules: readonly string[];
  /** A tag that a rule has already, however it is written, stays as it stands there. */
  readonly add?: readonly string[];
  readonly remove?: readonly string[];
}

/** Most tags of one rule. */
export const MOST_TAGS = 20;

/** Gives several rules tags and takes others from them. Refuses what would leave one with more than 20. */
export function tagRules({ workspace: key, person, rules, add = [], remove = [] }: Tagging): Promise<void> {
  const gone = new Set(remove.map((tag) => tag.toLowerCase()));
  return inSave(key, never, async ({ workspace: { schema }, workspace, transaction }) => {
    checkPerson(workspace, person);
    await run(
      transaction,
      `SELECT 1 FROM ${quote(schema)}._rule WHERE id = ANY($1::uuid[]) ORDER BY id FOR NO KEY UPDATE`,
      [rules],
    );
    for (const { id, tags: had, name } of await findRules(transaction, schema, rules)) {
      const left = had.filter((tag) => !gone.has(tag.toLowerCase()));
      const known = new Set(left.map((tag) => tag.toLowerCase()));
      const tags = [...left, ...add.filter((tag) => !known.has(tag.toLowerCase()))];
      if (tags.length > MOST_TAGS)
        throw new Refusal(
          422,
          'rule.tags',
          `“${name}” would have ${tags.length} tags; a rule has at most ${MOST_TAGS}. Take some from it first.`,
        );
      await run(
        transaction,
        `UPDATE ${quote(schema)}._rule SET tags = $2, version = version + 1 WHERE id = $1 AND tags IS DISTINCT FROM $2`,
        [id, tags],
      );
    }
  });
}

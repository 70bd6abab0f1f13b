import { compileRule, nameKey, proposedName, type RuleDefinition } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { quote, run } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

interface StoredName {
  readonly id: string;
  readonly name: string;
}

/** The name that Oikon gives a rule which nobody named: short, and no other rule's. */
export async function nameFor(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  id: string,
  definition: RuleDefinition,
): Promise<string> {
  const others = await run<StoredName>(
    transaction,
    `SELECT id::text, name FROM ${quote(workspace.schema)}._rule WHERE id <> $1`,
    [id],
  );
  return named(workspace, definition, new Set(others.map(({ name }) => nameKey(name)))) ?? 'New rule';
}

function named(
  { model }: LoadedWorkspace,
  definition: RuleDefinition,
  taken: ReadonlySet<string>,
): string | null {
  const compiled = compileRule(model, { id: '', version: '', name: '', definition });
  return compiled.ok ? proposedName(model, compiled.rule, taken) : null;
}

/** Rules that nobody named are called after the model as it is now: fields and types may have other names. Tells whether one is called otherwise. */
export async function nameAgain(transaction: Transaction, workspace: LoadedWorkspace): Promise<boolean> {
  let isOtherwise = false;
  const s = quote(workspace.schema);
  const all = await run<StoredName & { is_named: boolean; definition: RuleDefinition }>(
    transaction,
    `SELECT r.id::text, r.name, r.is_named, v.definition
      FROM ${s}._rule r JOIN ${s}._rule_version v ON v.id = r.latest_version ORDER BY r.id`,
  );
  const names = new Map(all.map(({ id, name }) => [id, nameKey(name)]));
  for (const { id, name, definition, is_named: isNamed } of all) {
    if (isNamed) continue;
    names.delete(id);
    const now = named(workspace, definition, new Set(names.values())) ?? name;
    names.set(id, nameKey(now));
    if (now === name) continue;
    isOtherwise = true;
    await run(transaction, `UPDATE ${s}._rule SET name = $2 WHERE id = $1`, [id, now]);
  }
  return isOtherwise;
}

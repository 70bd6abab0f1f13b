import { firstIn } from '@/core/values';
import { compileRule, type RuleDefinition } from '@/core/rules';
import { v7 as newId } from 'uuid';
import type { Transaction } from 'sequelize';
import { refuse, Refusal } from '@/server/refusal';
import { findRule } from '@/server/queries/rules/rules';
import { quote, run } from '@/server/store/sql/sql';
import { type LoadedWorkspace } from '@/server/store/session/workspace';
import { inSave } from '@/server/store/session/transactions';
import { checkPerson } from '@/server/queries/workspaces/people';
import { type By, never } from './change-state';
import { nameFor } from './rule-names';

export interface NewRule extends By {
  readonly definition: RuleDefinition;
  /** Left out or empty: it goes by the name that is proposed, as long as nobody names it. */
  readonly name?: string;
  readonly note?: string;
  readonly tags?: readonly string[];
}

/** Writes a new rule as a draft. Refuses one that doesn't fit the model, part by part. Answers its id. */
export function createRule(input: NewRule): Promise<string> {
  return inSave(input.workspace, never, async ({ workspace, transaction }) => {
    checkPerson(workspace, input.person);
    const id = newId();
    const name = input.name || (await nameFor(transaction, workspace, id, input.definition));
    checkDefinition(workspace, id, name, input.definition);
    const version = newId();
    await run(
      transaction,
      `INSERT INTO ${quote(workspace.schema)}._rule (id, name, is_named, note, tags, state, latest_version) VALUES ($1, $2, $3, $4, $5, 'draft', $6)`,
      [id, name, Boolean(input.name), input.note ?? '', input.tags ?? [], version],
    );
    await insertVersion(transaction, workspace, {
      id: version,
      rule: id,
      number: 1,
      definition: input.definition,
      person: input.person,
    });
    return id;
  });
}

export interface ChangedRule extends By {
  readonly id: string;
  /** The version that the person saw. */
  readonly version: number;
  readonly definition?: RuleDefinition;
  readonly name?: string;
  readonly note?: string;
  readonly tags?: readonly string[];
}

/**
 * Changes a rule. A changed definition becomes a new version; a live rule goes on with the version that is live until the
 * change is taken live too.
 */
export function changeRule(input: ChangedRule): Promise<void> {
  return inSave(input.workspace, never, async ({ workspace, transaction }) => {
    checkPerson(workspace, input.person);
    const schema = quote(workspace.schema);
    await run(transaction, `SELECT 1 FROM ${schema}._rule WHERE id::text = $1 FOR NO KEY UPDATE`, [input.id]);
    const stored = await findRule(transaction, workspace.schema, input.id);
    if (stored.version !== input.version) {
      const message = `“${stored.name}” was changed by somebody else: you saw version ${input.version}, it is now at ${stored.version}. Reload it and make your change again.`;
      throw new Refusal(409, 'rule.version', message, [], { seen: input.version, current: stored.version });
    }
    const definition = input.definition ?? stored.definition;
    const isNamed = input.name === undefined ? stored.is_named : input.name !== '';
    const name = isNamed
      ? input.name || stored.name
      : await nameFor(transaction, workspace, input.id, definition);
    checkDefinition(workspace, input.id, name, definition);
    const isChanged =
      input.definition !== undefined &&
      !(await sameDefinition(transaction, stored.definition, input.definition));
    const version = isChanged ? newId() : stored.latest_version;
    if (isChanged) {
      const last = firstIn(
        await run<{ number: number }>(
          transaction,
          `SELECT max(number) AS number FROM ${schema}._rule_version WHERE rule = $1`,
          [input.id],
        ),
      );
      await insertVersion(transaction, workspace, {
        id: version,
        rule: input.id,
        number: last.number + 1,
        definition,
        person: input.person,
      });
    }
    // What is compiled has the name too, in this process and in others: it is compiled again.
    if (stored.live_version !== null && name !== stored.name)
      await run(transaction, `UPDATE ${schema}._state SET epoch = epoch + 1`);
    await run(
      transaction,
      `UPDATE ${schema}._rule SET name = $2, is_named = $3, note = $4, latest_version = $5, tags = $6, version = version + 1 WHERE id = $1`,
      [input.id, name, isNamed, input.note ?? stored.note, version, input.tags ?? stored.tags],
    );
  });
}

/** Definitions are compared as PostgreSQL compares jsonb: the order of keys doesn't matter. */
async function sameDefinition(
  transaction: Transaction,
  a: RuleDefinition,
  b: RuleDefinition,
): Promise<boolean> {
  const row = firstIn(
    await run<{ same: boolean }>(transaction, 'SELECT $1::jsonb = $2::jsonb AS same', [
      JSON.stringify(a),
      JSON.stringify(b),
    ]),
  );
  return row.same;
}

function checkDefinition(
  workspace: LoadedWorkspace,
  id: string,
  name: string,
  definition: RuleDefinition,
): void {
  const compiled = compileRule(workspace.model, { id, version: '', name, definition });
  if (!compiled.ok) throw refuse(422, compiled.problems);
}

interface NewVersion {
  readonly id: string;
  readonly rule: string;
  readonly number: number;
  readonly definition: RuleDefinition;
  readonly person: string;
}

const insertVersion = (
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { id, rule, number, definition, person }: NewVersion,
) =>
  run(
    transaction,
    `INSERT INTO ${quote(workspace.schema)}._rule_version (id, rule, number, definition, person) VALUES ($1, $2, $3, $4, $5)`,
    [id, rule, number, JSON.stringify(definition), person],
  );

/** Removes a draft that was never live. */
export function deleteDraft({ workspace: key, person, id }: By & { readonly id: string }): Promise<void> {
  return inSave(key, never, async ({ workspace, transaction }) => {
    checkPerson(workspace, person);
    const stored = await findRule(transaction, workspace.schema, id);
    if (stored.state !== 'draft')
      throw new Refusal(
        409,
        'rule.notDraft',
        `“${stored.name}” has been live, so its history needs it. Pause it instead.`,
      );
    await run(transaction, `DELETE FROM ${quote(workspace.schema)}._rule WHERE id = $1`, [id]);
  });
}

import { checkModel, type ModelDefinition, readModel } from '@/core/model';
import { database } from '../database/connection';
import { migrateInstallation, migrateWorkspace } from '../database/migrate';
import { models } from '../database/models';
import { quote, run } from '../store/sql';
import { createTables } from '../store/tables';

export interface NewWorkspace {
  readonly key: string;
  readonly name: string;
  readonly timeZone: string;
  /** The day up to which dated conditions are worked out (`2026-03-14`). */
  readonly settledDay: string;
  readonly model: ModelDefinition;
  readonly people: readonly {
    readonly id: string;
    readonly name: string;
    readonly email: string;
    readonly role: string;
  }[];
}

/** Makes a workspace: its schema, its state and the tables of its model. Refuses (throws) a model with problems. */
export async function makeWorkspace(input: NewWorkspace): Promise<void> {
  const problems = checkModel(input.model);
  if (problems.length > 0)
    throw new RangeError(problems.map((problem) => `${problem.place}: ${problem.message}`).join('\n'));
  await migrateInstallation();
  const { Person, Workspace, Membership } = models();
  const schema = `w_${input.key.replaceAll('-', '_')}`;
  const workspace = await Workspace.create({ key: input.key, name: input.name, schema });
  await Person.bulkCreate([...input.people], { ignoreDuplicates: true });
  await Membership.bulkCreate(
    input.people.map((person) => ({ workspaceId: workspace.id, personId: person.id })),
  );
  await migrateWorkspace(schema, workspace.id);
  await database().transaction(async (transaction) => {
    await createTables(transaction, schema, readModel(input.model));
    const s = quote(schema);
    const [model] = await run<{ id: string }>(
      transaction,
      `INSERT INTO ${s}.model_version (definition) VALUES ($1) RETURNING id::text`,
      [JSON.stringify(input.model)],
    );
    await run(
      transaction,
      `INSERT INTO ${s}.state (epoch, settled_day, time_zone, model) VALUES (1, $1, $2, $3)`,
      [input.settledDay, input.timeZone, model!.id],
    );
  });
}

/** Removes a workspace with all that is in it. */
export async function removeWorkspace(key: string): Promise<void> {
  const { Workspace } = models();
  const workspace = await Workspace.findOne({ where: { key } });
  if (!workspace) return;
  await database().query(`DROP SCHEMA IF EXISTS ${quote(workspace.schema)} CASCADE`);
  await workspace.destroy();
}

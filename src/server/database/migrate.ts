import { QueryTypes, type Transaction } from 'sequelize';
import { Umzug } from 'umzug';
import { database } from './connection';
import { INSTALLATION, type MigrationStep, WORKSPACE } from './migrations';
import { models } from './models';

/** Brings the installation's tables up to date. Safe to call at every start, also from several processes at once. */
export const migrateInstallation = (): Promise<void> => migrate('public', INSTALLATION, {});

/** Brings the installation and all its workspaces up to date, as a program that is newer than the database needs them. */
export async function migrateEverything(): Promise<void> {
  await migrateInstallation();
  const { Workspace } = models();
  for (const { id } of await Workspace.findAll({ order: ['id'] }))
    await database().transaction(async (transaction) => {
      // One that is removed meanwhile isn't made again.
      const found = await Workspace.findByPk(id, { transaction, lock: transaction.LOCK.SHARE });
      if (found) await migrateWorkspace(found.schema, id, transaction);
    });
}

/** Makes a workspace's schema if it isn't there, and brings it up to date; as part of a transaction, or in one of its own. */
export async function migrateWorkspace(
  schema: string,
  workspace: number,
  transaction?: Transaction,
): Promise<void> {
  const options = transaction ? { transaction } : {};
  await database().query(`CREATE SCHEMA IF NOT EXISTS ${quote(schema)}`, options);
  await migrate(schema, WORKSPACE, { workspace }, transaction);
}

const quote = (name: string): string => database().getQueryInterface().quoteIdentifier(name, true);

async function migrate(
  schema: string,
  steps: readonly MigrationStep[],
  values: Record<string, number>,
  within?: Transaction,
): Promise<void> {
  const bringUp = async (transaction: Transaction): Promise<void> => {
    await database().query('SELECT pg_advisory_xact_lock(4410)', { transaction });
    await database().query(`SET LOCAL search_path TO ${quote(schema)}`, { transaction });
    await database().query(STEPS_TABLE, { transaction });
    await migrator(steps, values, transaction).up();
    await database().query('SET LOCAL search_path TO DEFAULT', { transaction });
  };
  await (within ? bringUp(within) : database().transaction(bringUp));
}

/** Which steps were taken; once the table had a name that a type's could have. */
const STEPS_TABLE = `
  DO $$ BEGIN
    IF to_regclass(format('%I._migration', current_schema())) IS NULL AND to_regclass(format('%I.migration', current_schema())) IS NOT NULL THEN
      ALTER TABLE migration RENAME TO _migration;
    END IF;
  END $$;
  CREATE TABLE IF NOT EXISTS _migration (name text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now())`;

function migrator(
  steps: readonly MigrationStep[],
  values: Record<string, number>,
  transaction: Transaction,
): Umzug<Transaction> {
  const query = (sql: string, replacements?: string[]) =>
    database().query(sql, { transaction, ...(replacements ? { bind: replacements } : {}) });
  return new Umzug({
    migrations: steps.map(({ name, sql }) => ({
      name,
      up: () => query(sql.replace(/:(workspace)\b/g, (_, key: string) => String(values[key]))),
    })),
    context: transaction,
    logger: undefined,
    storage: {
      logMigration: async ({ name }) =>
        void (await query('INSERT INTO _migration (name) VALUES ($1)', [name])),
      unlogMigration: async () => Promise.reject(new Error('Schemas only move forward')),
      executed: async () => {
        const rows = await database().query<{ name: string }>('SELECT name FROM _migration', {
          transaction,
          type: QueryTypes.SELECT,
        });
        return rows.map(({ name }) => name);
      },
    },
  });
}

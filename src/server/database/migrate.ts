import { createHash } from 'node:crypto';
import { QueryTypes, type Transaction } from 'sequelize';
import { Umzug } from 'umzug';
import { database } from './connection';
import { INSTALLATION, type MigrationStep, WORKSPACE } from './migrations';
import { models } from './models';

/** Brings the installation's tables up to date. Safe to call at every start, also from several processes at once. */
export const migrateInstallation = (): Promise<number> => migrate('public', INSTALLATION, {});

/** Brings the installation and all its workspaces up to date, as a program that is newer than the database needs them. Answers how many steps it took. */
export async function migrateEverything(): Promise<number> {
  let taken = await migrateInstallation();
  const { Workspace } = models();
  for (const { id } of await Workspace.findAll({ order: ['id'] }))
    await database().transaction(async (transaction) => {
      // One that is removed meanwhile isn't made again.
      const found = await Workspace.findByPk(id, { transaction, lock: transaction.LOCK.SHARE });
      if (found) taken += await migrateWorkspace(found.schema, id, transaction);
    });
  return taken;
}

/** Makes a workspace's schema if it isn't there, and brings it up to date; as part of a transaction, or in one of its own. */
export async function migrateWorkspace(
  schema: string,
  workspace: number,
  transaction?: Transaction,
): Promise<number> {
  const options = transaction ? { transaction } : {};
  await database().query(`CREATE SCHEMA IF NOT EXISTS ${quote(schema)}`, options);
  return migrate(schema, WORKSPACE, { workspace }, transaction);
}

const quote = (name: string): string => database().getQueryInterface().quoteIdentifier(name, true);

async function migrate(
  schema: string,
  steps: readonly MigrationStep[],
  values: Record<string, number>,
  within?: Transaction,
): Promise<number> {
  const bringUp = async (transaction: Transaction): Promise<number> => {
    await database().query('SELECT pg_advisory_xact_lock(4410)', { transaction });
    await database().query(`SET LOCAL search_path TO ${quote(schema)}`, { transaction });
    await database().query(STEPS_TABLE, { transaction });
    await checkTaken(schema, steps, transaction);
    const taken = await migrator(steps, values, transaction).up();
    await database().query('SET LOCAL search_path TO DEFAULT', { transaction });
    return taken.length;
  };
  return within ? bringUp(within) : database().transaction(bringUp);
}

/** Which steps were taken; once the table had a name that a type's could have. */
const STEPS_TABLE = `
  DO $$ BEGIN
    IF to_regclass(format('%I._migration', current_schema())) IS NULL AND to_regclass(format('%I.migration', current_schema())) IS NOT NULL THEN
      ALTER TABLE migration RENAME TO _migration;
    END IF;
  END $$;
  CREATE TABLE IF NOT EXISTS _migration (name text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now(), checksum text);
  ALTER TABLE _migration ADD COLUMN IF NOT EXISTS checksum text`;

const checksumOf = ({ sql }: MigrationStep): string => createHash('sha256').update(sql).digest('hex');

/** Tables that this program can't work with: newer than it is, older, or brought up to date by another one than it. */
export class UnfitTables extends Error {
  constructor(message: string) {
    super(message);
    this.name = 'UnfitTables';
  }
}

interface Taken {
  readonly name: string;
  readonly checksum: string | null;
}

const unfitIn = (schema: string, steps: readonly MigrationStep[], taken: readonly Taken[]): string | null => {
  const known = new Map(steps.map((step) => [step.name, checksumOf(step)]));
  for (const { name, checksum } of taken) {
    const own = known.get(name);
    if (own === undefined)
      return `The tables in “${schema}” are newer than this program: they have the step ${name}, which it doesn’t know. Start the newer program, or restore a backup of before.`;
    if (checksum !== null && checksum !== own)
      return `The step ${name} in “${schema}” was taken with another content than this program’s. Start the program that the tables were made by, or restore a backup of before.`;
  }
  return null;
};

/** Refuses tables of a newer or another program, before anything is written; of steps that were taken before they had checksums, these are noted. */
async function checkTaken(
  schema: string,
  steps: readonly MigrationStep[],
  transaction: Transaction,
): Promise<void> {
  const taken = await database().query<Taken>('SELECT name, checksum FROM _migration', {
    transaction,
    type: QueryTypes.SELECT,
  });
  const unfit = unfitIn(schema, steps, taken);
  if (unfit) throw new UnfitTables(unfit);
  for (const { name, checksum } of taken) {
    const step = steps.find((one) => one.name === name);
    if (step && checksum === null)
      await database().query('UPDATE _migration SET checksum = $2 WHERE name = $1', {
        transaction,
        bind: [name, checksumOf(step)],
      });
  }
}

/** Refuses to work with tables that aren't as this program needs them; changes none. */
export async function checkTables(): Promise<void> {
  await checkSchema('public', INSTALLATION);
  const { Workspace } = models();
  for (const { schema } of await Workspace.findAll({ attributes: ['schema'], order: ['id'] }))
    await checkSchema(schema, WORKSPACE);
}

async function checkSchema(schema: string, steps: readonly MigrationStep[]): Promise<void> {
  const table = `${quote(schema)}._migration`;
  const [there] = await database().query<{ is: boolean }>('SELECT to_regclass($1) IS NOT NULL AS is', {
    bind: [table],
    type: QueryTypes.SELECT,
  });
  const taken = there?.is
    ? await database().query<Taken>(`SELECT name, to_jsonb(m) ->> 'checksum' AS checksum FROM ${table} m`, {
        type: QueryTypes.SELECT,
      })
    : [];
  const unfit = unfitIn(schema, steps, taken);
  if (unfit) throw new UnfitTables(unfit);
  const missing = steps.filter(({ name }) => !taken.some((one) => one.name === name));
  if (missing.length > 0)
    throw new UnfitTables(
      `The tables in “${schema}” are older than this program: ${missing.length} ${missing.length === 1 ? 'step isn’t' : 'steps aren’t'} taken yet. Back the database up, run bin/migrate, and start again.`,
    );
}

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
      logMigration: async ({ name }) => {
        const step = steps.find((one) => one.name === name);
        await query('INSERT INTO _migration (name, checksum) VALUES ($1, $2)', [
          name,
          step ? checksumOf(step) : '',
        ]);
      },
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

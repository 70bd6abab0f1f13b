import { disconnect } from './server/database/connection';
import { migrateEverything, UnfitTables } from './server/database/migrate';
import { readDatabaseUrl } from './server/settings';

/** Brings the tables of the installation and of all its workspaces up to date: `tsx src/migrate.ts`. Run again it changes nothing. */
async function bringUpToDate(): Promise<void> {
  process.env.DATABASE_URL = readDatabaseUrl(process.env);
  const taken = await migrateEverything();
  await disconnect();
  const steps = taken === 1 ? 'step was' : 'steps were';
  process.stdout.write(
    taken === 0 ? 'The tables were up to date.\n' : `The tables are up to date: ${taken} ${steps} taken.\n`,
  );
}

bringUpToDate().catch((error: unknown) => {
  const isSaid = error instanceof UnfitTables || error instanceof RangeError;
  console.error(isSaid ? error.message : error);
  process.exit(isSaid ? 2 : 1);
});

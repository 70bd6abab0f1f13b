/**
 * A process that keeps a workspace's timetables once, as of a moment, when it is told to (a line on its input): `tsx keeper.ts WORKSPACE MOMENT`.
 * Says on a line of its own that it is ready.
 */
import { disconnect } from '@/server/database/connection';
import { keepPaces } from '@/server/jobs/slower-paces';
import { loadWorkspace } from '@/server/store/session/workspace';

async function keep(workspace: string, moment: string): Promise<void> {
  await loadWorkspace(workspace);
  process.stdout.write('ready\n');
  await new Promise((resolve) => process.stdin.once('data', resolve));
  await keepPaces(workspace, new Date(moment));
  await disconnect();
  process.exit(0);
}

keep(process.argv[2]!, process.argv[3]!).catch((error: unknown) => {
  console.error(error);
  process.exit(1);
});

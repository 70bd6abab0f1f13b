import { disconnect } from '@/server/database/connection';
import { migrateInstallation } from '@/server/database/migrate';
import type { Figure } from './measure';
import { benchCascade } from './cascade';
import { benchFormulas } from './formulas';
import { benchImport } from './import';
import { benchLeaders } from './leaders';
import { benchLists } from './lists';
import { benchLive } from './live';
import { benchMaking } from './making';
import { benchMap } from './map';
import { benchMemory } from './memory';
import { benchProofs } from './proofs';
import { benchSave } from './save';
import { benchSize } from './size';
import { benchTree } from './tree';

const PARTS: Record<string, (url: string) => Promise<Figure[]>> = {
  save: benchSave,
  live: benchLive,
  leaders: benchLeaders,
  cascade: benchCascade,
  making: benchMaking,
  tree: benchTree,
  import: benchImport,
  lists: benchLists,
  map: benchMap,
  memory: benchMemory,
  formulas: benchFormulas,
  proofs: benchProofs,
  size: benchSize,
};

async function main(): Promise<void> {
  const url = process.env.DATABASE_URL!;
  const wanted = process.argv.slice(2);
  const figures: Figure[] = [];
  await migrateInstallation();
  for (const [name, part] of Object.entries(PARTS))
    if (wanted.length === 0 || wanted.includes(name)) figures.push(...(await part(url)));
  await disconnect();
  const failed = figures.filter(({ ratio, must }) => must !== null && ratio > must);
  console.log(failed.length === 0 ? 'Every bar holds.' : `${failed.length} bars don’t hold.`);
  if (failed.length > 0) process.exitCode = 1;
}

main().catch((error: unknown) => {
  console.error(error);
  process.exit(1);
});

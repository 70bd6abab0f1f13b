import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { Refusal } from '@/server/refusal';
import { isStrong, junitOf, reportOf } from './report';
import { runProofs } from './run-proofs';

const USAGE = 'Usage: bin/prove BUNDLE [--junit FILE] [--strength SHARE]';

/** The least share of ways to change a rule that its proofs must notice, in hundredths; `null` where that isn't asked. */
function leastIn(given: string | undefined): number | null {
  if (given === undefined) return null;
  const least = /^\d{1,3}%?$/.test(given) ? Number.parseInt(given, 10) : Number.NaN;
  if (least >= 0 && least <= 100) return least;
  const message = `--strength takes a whole number from 0 to 100, the least share of changes that proofs must notice; found “${given}”.`;
  throw new Refusal(400, 'prove.strength', message);
}

/** Ends with 0 where every proof holds, and all are as strong as is asked; 1 where not, 2 where they can't be run. */
async function main(): Promise<number> {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: { junit: { type: 'string' }, strength: { type: 'string' } },
  });
  const [file, ...more] = positionals;
  if (file === undefined || more.length > 0) throw new Refusal(400, 'prove.usage', USAGE);
  const least = leastIn(values.strength);
  if (!existsSync(file))
    throw new Refusal(404, 'prove.file', `There is no file ${file}. Export a bundle, and name it.`);
  const rules = await runProofs(readFileSync(file, 'utf8'), least !== null);
  process.stdout.write(reportOf(rules, least));
  if (values.junit !== undefined) writeFileSync(values.junit, junitOf(rules, least));
  const isFine = rules.every(
    (rule) => rule.proofs.every(({ isHeld }) => isHeld) && (least === null || isStrong(rule, least)),
  );
  return isFine ? 0 : 1;
}

main()
  .then((code) => {
    process.exitCode = code;
  })
  .catch((error: unknown) => {
    const parts = error instanceof Refusal ? error.parts.map(({ message }) => message) : [];
    const lines = parts.length > 0 ? parts : [(error as Error).message];
    process.stderr.write(`${lines.join('\n')}\n`);
    process.exitCode = 2;
  });

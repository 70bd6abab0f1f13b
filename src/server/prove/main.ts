import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { Refusal } from '../refusal';
import { junitOf, reportOf } from './report';
import { runProofs } from './run-proofs';

const USAGE = 'Usage: bin/prove BUNDLE [--junit FILE]';

/** Ends with 0 where every proof holds, 1 where one doesn't, 2 where they can't be run. */
function main(): number {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: { junit: { type: 'string' } },
  });
  const [file, ...more] = positionals;
  if (file === undefined || more.length > 0) throw new Refusal(400, 'prove.usage', USAGE);
  if (!existsSync(file))
    throw new Refusal(404, 'prove.file', `There is no file ${file}. Export a bundle, and name it.`);
  const rules = runProofs(readFileSync(file, 'utf8'));
  process.stdout.write(reportOf(rules));
  if (values.junit !== undefined) writeFileSync(values.junit, junitOf(rules));
  return rules.every(({ proofs }) => proofs.every(({ isHeld }) => isHeld)) ? 0 : 1;
}

try {
  process.exitCode = main();
} catch (error) {
  const parts = error instanceof Refusal ? error.parts.map(({ message }) => message) : [];
  const lines = parts.length > 0 ? parts : [(error as Error).message];
  process.stderr.write(`${lines.join('\n')}\n`);
  process.exitCode = 2;
}

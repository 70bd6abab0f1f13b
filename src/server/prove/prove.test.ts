import { BUNDLE_FORMAT, BUNDLE_VERSION } from '@/core/intake';
import { GALLERIES, galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { proofOf } from '@/core/testing/proofs';
import type { Expectation } from '@/core/verify';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const model = galleries();
const [silk, one, two] = [uuid('11'), uuid('21'), uuid('22')];
const rule = ruleOf(INSURED_TOTAL, 1, 'Insured total & <more>');
const rows = [
  rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
  rowOf(model, 'loan', one, { title: 'Robes', exhibition: silk, stage: 'agreed', insuredValue: gbp(100) }),
  rowOf(model, 'loan', two, { title: 'Pots', exhibition: silk, stage: 'declined', insuredValue: gbp(40) }),
];
const becomes = (amount: string): Expectation => ({
  ...{ kind: 'becomes', type: 'exhibition', id: silk, field: 'insuredTotal' },
  value: { amount, currency: 'GBP' },
});
const proof = (number: number, name: string, amount: string) =>
  proofOf(model, rule.id, rows, { id: uuid(`f${number}`), name, expectations: [becomes(amount)] });
const bundle = (proofs: readonly object[]): string =>
  JSON.stringify({
    ...{ format: BUNDLE_FORMAT, version: BUNDLE_VERSION },
    workspace: { name: 'Galleries', timeZone: 'Europe/London', settledDay: '2027-03-01' },
    ...{ people: [], optionLists: GALLERIES.lists ?? [], types: GALLERIES.types, selections: [], lists: [] },
    rules: [
      { id: rule.id, name: rule.name, note: '', state: 'draft', definition: rule.definition },
      { id: uuid('b9'), name: 'Bare', note: '', state: 'draft', definition: rule.definition },
    ],
    ...{ families: [], proofs },
  });

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'oikon-prove-'));
});
afterAll(() => rmSync(folder, { recursive: true }));

/** Runs the command as a pipeline would, with no database to reach. */
function prove(text: string | null, ...more: string[]) {
  const file = join(folder, 'bundle.json');
  if (text !== null) writeFileSync(file, text);
  const { DATABASE_URL: _none, ...env } = process.env;
  const command = [
    join(process.cwd(), 'node_modules/.bin/tsx'),
    join(process.cwd(), 'src/server/prove/main.ts'),
  ];
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [...command, ...(text === null ? [] : [file]), ...more],
    {
      ...{ env, encoding: 'utf8' },
    },
  );
  return { status, stdout, stderr };
}

test('says which proofs hold and which rules have none, and ends well where all hold', () => {
  const { status, stdout } = prove(bundle([proof(1, 'Agreed only', '100')]));
  expect(stdout).toContain('holds     Agreed only');
  expect(stdout).toContain('No proof covers this rule:\n  Bare');
  expect(stdout).toMatch(/1 of 1 proofs hold\.\n$/);
  expect(status).toBe(0);
});

test('says what came instead, for people and as JUnit XML, and ends with 1', () => {
  const junit = join(folder, 'results.xml');
  const gone = { ...proof(3, 'Gone', '100'), expectations: [{ ...becomes('1'), field: 'gone' }] };
  const proofs = [proof(1, 'Agreed only', '100'), proof(2, 'All “of” them', '140'), gone];
  const { status, stdout } = prove(bundle(proofs), '--junit', junit);
  expect(stdout).toContain('DOESN’T   All “of” them');
  expect(stdout).toContain('Insured total of Rivers of Silk should become 140.00 GBP; it was 100.00 GBP.');
  expect(stdout).toContain('isn’t in the model any more');
  expect(status).toBe(1);
  const xml = readFileSync(junit, 'utf8');
  expect(xml).toMatch(/<testsuites tests="3" failures="2"/);
  expect(xml).toContain('<testsuite name="Insured total &amp; &lt;more>"');
  expect(xml).toMatch(
    /<failure message="Insured total of Rivers of Silk should become 140\.00 GBP; it was 100\.00 GBP\."/,
  );
});

test('says how strong proofs are and what none would notice, and ends with 1 below the share that is asked', () => {
  const junit = join(folder, 'strength.xml');
  const text = bundle([proof(1, 'Agreed only', '100')]);
  const weak = prove(text, '--strength', '100', '--junit', junit);
  expect(weak.status).toBe(1);
  expect(weak.stdout).toMatch(/Insured total & <more>: \d+ of \d+ changes noticed \(\d+ %\)/);
  expect(weak.stdout).toContain('would notice: ');
  expect(weak.stdout).toMatch(/at least 100 % is asked/);
  // A draft without proofs isn't judged.
  expect(weak.stdout).not.toContain('Bare: ');
  expect(readFileSync(junit, 'utf8')).toContain('proofs notice at least 100 % of its changes');
  expect(prove(text, '--strength', '1')).toMatchObject({ status: 0 });
  expect(prove(text, '--strength', 'all')).toMatchObject({
    status: 2,
    stderr: expect.stringContaining('from 0 to 100') as string,
  });
});

test('what can’t be read is told, with 2', () => {
  expect(prove('{}')).toMatchObject({
    status: 2,
    stderr: expect.stringContaining('Expected a bundle') as string,
  });
  expect(prove(null)).toMatchObject({
    status: 2,
    stderr: expect.stringContaining('Usage: bin/prove') as string,
  });
  expect(prove(null, join(folder, 'none.json')).stderr).toContain('There is no file');
});

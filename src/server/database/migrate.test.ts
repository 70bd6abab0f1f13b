import { QueryTypes } from 'sequelize';
import { makeWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { loadWorkspace } from '@/server/store/session/workspace';
import { TESTER } from '@/server/testing/tester';
import { database, disconnect } from './connection';
import { migrateWorkspace, UnfitTables } from './migrate';

const key = `test-${process.pid}-steps`;
let table: string;

beforeAll(async () => {
  const model = { types: [] };
  const of = { timeZone: 'UTC', settledDay: '2026-03-14', people: [TESTER] };
  await makeWorkspace({ key, name: key, model, ...of });
  table = `"${(await loadWorkspace(key)).schema}"._migration`;
});
afterAll(async () => {
  await removeWorkspace(key);
  await disconnect();
});

const run = (text: string, bind: unknown[] = []) =>
  database().query<Record<string, unknown>>(text, { bind, type: QueryTypes.SELECT });

const bringUp = async () => {
  const { schema, id } = await loadWorkspace(key);
  return migrateWorkspace(schema, id);
};

test('each step has a checksum; taken again nothing is done', async () => {
  const steps = await run(`SELECT name, checksum FROM ${table}`);
  expect(steps.length).toBeGreaterThan(20);
  for (const { checksum } of steps) expect(checksum).toMatch(/^[0-9a-f]{64}$/);
  expect(await bringUp()).toBe(0);
});

test('steps of before checksums get theirs', async () => {
  await run(`UPDATE ${table} SET checksum = NULL WHERE name LIKE '00%'`);
  expect(await bringUp()).toBe(0);
  expect(await run(`SELECT 1 AS one FROM ${table} WHERE checksum IS NULL`)).toEqual([]);
});

test('tables of a newer program are refused, in words, and nothing is written', async () => {
  await run(`INSERT INTO ${table} (name, checksum) VALUES ('999-of-tomorrow', 'x')`);
  await expect(bringUp()).rejects.toThrow(UnfitTables);
  await expect(bringUp()).rejects.toThrow(/newer than this program: they have the step 999-of-tomorrow/);
  await run(`DELETE FROM ${table} WHERE name = '999-of-tomorrow'`);
});

test('a step that was taken with another content is refused', async () => {
  const [step] = await run(`SELECT name, checksum FROM ${table} ORDER BY name DESC LIMIT 1`);
  await run(`UPDATE ${table} SET checksum = repeat('0', 64) WHERE name = $1`, [step!.name]);
  await expect(bringUp()).rejects.toThrow(/was taken with another content/);
  await run(`UPDATE ${table} SET checksum = $2 WHERE name = $1`, [step!.name, step!.checksum]);
  expect(await bringUp()).toBe(0);
});

import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import type { Timetable } from '@/core/model';
import { rowOf, uuid } from '@/core/testing/galleries';
import { inspections, LINE } from '@/core/testing/inspections';
import { numbered } from '@/core/testing/rule-desk';
import { QueryTypes } from 'sequelize';
import { database, disconnect } from '@/server/database/connection';
import { flawsIn } from '@/server/testing/flaws';
import { type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { keepPaces } from './slower-paces';

const model = inspections();
const EVERY_DAY: Timetable = { kind: 'timetable', every: 'day', at: '06:00' };
/** Each time it comes round one more for each: twice would show. */
const DAILY = { ...LINE, each: 'everyTime', pace: EVERY_DAY } as const;
const rows = [1, 2, 3].map((at) =>
  rowOf(model, 'artefact', uuid(String(at)), { title: `Work ${at}`, sort: 'painting' }),
);
let workspace: TestWorkspace;
beforeEach(async () => {
  workspace = await testWorkspace({ model, rows, rules: numbered([DAILY]) });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const lines = async () =>
  (await workspace.rows()).filter(({ type, deleted }) => type === 'line' && !deleted).length;
const schema = async () => `"${(await workspace.load()).schema}"`;
const due = async () => {
  const [row] = await database().query<{ due: Date }>(`SELECT due_at AS due FROM ${await schema()}._rule`, {
    type: QueryTypes.SELECT,
  });
  return row!.due.toISOString();
};
const on = (day: number, time: string) => new Date(`2027-03-0${day}T${time}:00.000Z`);

async function keeper(moment: Date): Promise<ChildProcess> {
  const started = spawn(
    process.execPath,
    ['--import', 'tsx', 'src/server/testing/keeper.ts', workspace.key, moment.toISOString()],
    { stdio: ['pipe', 'pipe', 'inherit'] },
  );
  await once(started.stdout!, 'data');
  return started;
}

test('two processes at one due time: what is due is done once', async () => {
  await keepPaces(workspace.key, on(1, '05:00'));
  for (const day of [1, 2]) {
    const keepers = await Promise.all([1, 2, 3].map(() => keeper(on(day, '06:30'))));
    const ended = keepers.map((one) => once(one, 'exit'));
    for (const one of keepers) one.stdin!.write('go\n');
    expect((await Promise.all(ended)).map(([code]) => code as number)).toEqual([0, 0, 0]);
    expect(await lines()).toBe(3 * day);
    expect(await due()).toBe(on(day + 1, '06:00').toISOString());
  }
  expect(await flawsIn(workspace)).toEqual([]);
});

/** Ends the connection that writes into a table, in the middle of that or at its commit. */
async function killAt(table: string, event: string, isAtCommit = false): Promise<() => Promise<void>> {
  const s = await schema();
  await database().query(`CREATE OR REPLACE FUNCTION ${s}.die() RETURNS trigger LANGUAGE plpgsql AS
    $$ BEGIN PERFORM pg_terminate_backend(pg_backend_pid()); RETURN NEW; END $$;
    CREATE ${isAtCommit ? 'CONSTRAINT TRIGGER dying AFTER' : 'TRIGGER dying BEFORE'} ${event} ON ${s}.${table}
      ${isAtCommit ? 'DEFERRABLE INITIALLY DEFERRED' : ''} FOR EACH ROW EXECUTE FUNCTION ${s}.die()`);
  return async () => void (await database().query(`DROP TRIGGER dying ON ${s}.${table}`));
}

test.each([
  ['as it takes the work on', '_rule', 'UPDATE', false],
  ['as the run begins', '_run', 'INSERT', false],
  ['as it makes a record', 'line', 'INSERT', false],
  ['as it notes what was made', '_made', 'INSERT', false],
  ['as it commits', '_made', 'INSERT', true],
] as const)(
  'killed %s nothing is done, and it is done once afterwards',
  async (_, table, event, isAtCommit) => {
    await keepPaces(workspace.key, on(1, '05:00'));
    const heal = await killAt(table, event, isAtCommit);
    await expect(keepPaces(workspace.key, on(1, '06:30'))).rejects.toThrow();
    expect(await lines()).toBe(0);
    expect(await due()).toBe(on(1, '06:00').toISOString());
    await heal();
    await keepPaces(workspace.key, on(1, '06:40'));
    await keepPaces(workspace.key, on(1, '06:50'));
    expect(await lines()).toBe(3);
    expect(await due()).toBe(on(2, '06:00').toISOString());
    expect(await flawsIn(workspace)).toEqual([]);
  },
);

test('one that was set by a clock that was ahead is set anew', async () => {
  await keepPaces(workspace.key, new Date('2031-01-01T12:00:00Z'));
  expect(await due()).toBe('2031-01-02T06:00:00.000Z');
  await keepPaces(workspace.key, on(1, '05:00'));
  expect(await due()).toBe(on(1, '06:00').toISOString());
});

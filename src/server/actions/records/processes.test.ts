import { ALL_RULES, galleries } from '@/core/testing/galleries';
import { type ChildProcess, spawn } from 'node:child_process';
import { createInterface } from 'node:readline';
import { QueryTypes } from 'sequelize';
import { database, disconnect } from '@/server/database/connection';
import { expectSound } from '@/server/testing/expect-sound';
import { fewParents } from '@/server/testing/traffic';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { saveEdits } from './save-edits';
import { changeState } from '@/server/actions/rules/change-state';

let workspace: TestWorkspace;
beforeEach(async () => {
  workspace = await testWorkspace({ model: galleries(), rows: fewParents(), rules: ALL_RULES });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

/** Another process that saves on the same database, and how to wait until it has saved so many times. */
class Writer {
  saves = 0;
  #waiting: (() => void)[] = [];
  readonly #process: ChildProcess;
  readonly ended: Promise<number | null>;
  #errors = '';

  constructor(key: string, seed: number) {
    this.#process = spawn(
      process.execPath,
      ['--import', 'tsx', 'src/server/testing/writer.ts', key, String(seed)],
      { stdio: ['ignore', 'pipe', 'pipe'] },
    );
    createInterface({ input: this.#process.stdout! }).on('line', () => {
      this.saves += 1;
      this.#waiting.forEach((look) => look());
    });
    this.#process.stderr!.on('data', (text: Buffer) => (this.#errors += text.toString()));
    this.ended = new Promise((resolve) =>
      this.#process.on('exit', (code) => {
        this.#waiting.forEach((look) => look());
        resolve(code);
      }),
    );
  }

  until(saves: number): Promise<void> {
    return new Promise((resolve, reject) => {
      const look = () => {
        if (this.saves >= saves) resolve();
        else if (this.#process.exitCode !== null) reject(new Error(`The writer ended: ${this.#errors}`));
      };
      this.#waiting.push(look);
      look();
    });
  }

  async kill(): Promise<void> {
    this.#process.kill('SIGKILL');
    await this.ended;
  }
}

/** Until the server has noticed that killed processes are gone: a statement that it was at is finished first. */
async function untilQuiet(): Promise<void> {
  const busy =
    "SELECT 1 FROM pg_stat_activity WHERE application_name = 'oikon' AND state <> 'idle' AND pid <> pg_backend_pid()";
  while ((await database().query(busy, { type: QueryTypes.SELECT })).length > 0);
}

async function soundOnceQuiet(): Promise<void> {
  await untilQuiet();
  await expectSound(workspace);
}

test('while one process takes rules live and pauses them, others never save with stale rules', async () => {
  const writers = [1, 2].map((seed) => new Writer(workspace.key, seed));
  try {
    await Promise.all(writers.map((writer) => writer.until(5)));
    for (const [at, id] of [0, 3, 1, 4].map((index) => workspace.rules[index]!).entries()) {
      const by = { workspace: workspace.key, person: TESTER.id, id };
      await changeState({ ...by, state: 'paused' });
      await Promise.all(writers.map((writer) => writer.until(writer.saves + 10)));
      await changeState({ ...by, state: 'live' });
      // Right when it is live everything is right, whatever was saved meanwhile and whatever is under way.
      if (at === 3) await Promise.all(writers.map((writer) => writer.until(writer.saves + 10)));
    }
  } finally {
    await Promise.all(writers.map((writer) => writer.kill()));
  }
  expect((await workspace.load()).plan.rules).toHaveLength(ALL_RULES.length);
  await soundOnceQuiet();
});

test('processes killed in the middle of saves leave nothing half-saved, and others go on', async () => {
  for (const round of [1, 2, 3]) {
    const writers = [1, 2, 3].map((seed) => new Writer(workspace.key, round * 10 + seed));
    try {
      await Promise.all(writers.map((writer) => writer.until(20)));
    } finally {
      await Promise.all(writers.map((writer) => writer.kill()));
    }
    await soundOnceQuiet();
  }
  const [exhibition] = fewParents().filter(({ type }) => type === 'exhibition');
  await saveEdits({
    ...{ workspace: workspace.key, person: TESTER.id },
    edits: [{ kind: 'edit', type: 'exhibition', id: exhibition!.id, values: { title: 'Still here' } }],
  });
  await soundOnceQuiet();
});

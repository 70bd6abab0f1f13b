import {
  type Edit,
  MemoryStore,
  Overlay,
  propagate,
  type RunOutcome,
  runInMemory,
  runWith,
} from '@/core/engine';
import { buildPlan } from '@/core/plan';
import { anyCase, type Case } from '@/core/testing/any-case';
import { keptIn, keptPlainly, printRows } from '@/core/testing/compare';
import fc from 'fast-check';
import { disconnect } from '../database/connection';
import { driftIn } from '../testing/drift';
import { TESTER, type TestWorkspace, testWorkspace } from '../testing/workspace';
import { PostgresDriver } from './driver';
import { LoadingDriver } from './loading-driver';
import { inSave, inSnapshot } from './transactions';

afterAll(disconnect);

/** What a run did, whatever store it ran on. */
const told = (outcome: RunOutcome): string =>
  outcome.kind === 'refused'
    ? outcome.problems
        .map(({ code, message }) => `${code} ${message}`)
        .sort()
        .join('\n')
    : outcome.ripple.changes
        .map((change) => JSON.stringify(change))
        .sort()
        .join('\n');

/** A run that is refused is taken back, whatever it has written until then. */
class Refused extends Error {
  constructor(readonly outcome: RunOutcome) {
    super('refused');
  }
}

async function saveIn(workspace: TestWorkspace, edits: readonly Edit[]): Promise<RunOutcome> {
  try {
    return await inSave(
      workspace.key,
      () => false,
      async ({ workspace: loaded, transaction }) => {
        const driver = new PostgresDriver(loaded, transaction, { kind: 'save', person: TESTER.id });
        const { model, plan } = loaded;
        const outcome = await runWith((need) => driver.answer(need), propagate({ model, plan, edits }));
        if (outcome.kind === 'refused') throw new Refused(outcome);
        await driver.finish();
        return outcome;
      },
    );
  } catch (error) {
    if (error instanceof Refused) return error.outcome;
    throw error;
  }
}

const rehearseIn = (workspace: TestWorkspace, edits: readonly Edit[]): Promise<RunOutcome> =>
  inSnapshot(async (transaction) => {
    const loaded = await workspace.load();
    const driver = new LoadingDriver(loaded, transaction);
    const { model, plan } = loaded;
    return runWith((need) => driver.answer(need), propagate({ model, plan, edits }));
  });

async function holdTogether(given: Case): Promise<void> {
  const { model, rows, saves } = given;
  const workspace = await testWorkspace(given);
  try {
    // The rules got ids of their own as they were stored: memory runs with the same.
    const { plan, live } = await workspace.load();
    const { plan: inMemory } = buildPlan(model, live);
    const memory = new MemoryStore(model, true);
    rows.forEach((row) => memory.put(row));
    const save = (edits: readonly Edit[], fill: readonly string[] = []) => {
      const overlay = new Overlay(model, memory);
      const outcome = runInMemory(model, overlay, propagate({ model, plan: inMemory, edits, fill }));
      if (outcome.kind === 'done') overlay.commit();
      return outcome;
    };
    save(
      [],
      plan.rules.map(({ id }) => id),
    );
    for (const edits of saves) {
      const expected = told(save(edits));
      expect(told(await rehearseIn(workspace, edits))).toBe(expected);
      expect(told(await saveIn(workspace, edits))).toBe(expected);
      const stored = await workspace.rows();
      expect(printRows(stored)).toBe(printRows(model.types.flatMap(({ key }) => [...memory.rows(key)])));
      expect(keptIn(plan, stored)).toEqual(keptPlainly(model, plan, stored));
      expect(await driftIn(workspace)).toEqual([]);
    }
  } finally {
    await workspace.remove();
  }
}

test('PostgreSQL, memory, rehearsal, SQL over the whole table and the plain evaluator agree to the last digit', async () => {
  await fc.assert(fc.asyncProperty(anyCase, holdTogether), { numRuns: 80, endOnFailure: true });
}, 300_000);

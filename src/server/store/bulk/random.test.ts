import { cases } from '@/core/testing/cases';
import {
  type Edit,
  MemoryStore,
  Overlay,
  propagate,
  type Row,
  type RunOutcome,
  runInMemory,
  runWith,
} from '@/core/engine';
import { buildPlan } from '@/core/plan';
import { anyCase, type Case, pacedCase } from '@/core/testing/any-case';
import { keptIn, keptPlainly, printRows } from '@/core/testing/compare';
import { isSlower } from '@/core/rules';
import fc from 'fast-check';
import { bringUpToDate } from '@/server/actions/rules/bring-up-to-date';
import { driftIn } from '@/server/testing/drift';
import { endCases, madeOf, saveIn } from '@/server/testing/random';
import type { TestWorkspace } from '@/server/testing/workspace';
import { setBounds } from '@/server/store/session/bounds';
import { quote, run } from '@/server/store/sql/sql';
import { SnapshotDriver } from '@/server/store/run/snapshot-driver';
import { Refusal } from '@/server/refusal';
import { inSnapshot } from '@/server/store/session/transactions';

afterAll(endCases);
afterEach(() => setBounds());

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

const rehearseIn = (workspace: TestWorkspace, edits: readonly Edit[]): Promise<RunOutcome> =>
  inSnapshot(async (transaction) => {
    const loaded = await workspace.load();
    const driver = new SnapshotDriver(loaded, transaction);
    const { model, plan } = loaded;
    return runWith((need) => driver.answer(need), propagate({ model, plan, edits }));
  });

async function holdTogether(given: Case): Promise<void> {
  const { model, rows, saves } = given;
  const workspace = await madeOf(given);
  if (!workspace) return;
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
  await fc.assert(fc.asyncProperty(anyCase, holdTogether), {
    numRuns: cases(40, 20_000),
    endOnFailure: true,
  });
});

/** The codes for which a run was refused. */
const refusedFor = (outcome: RunOutcome): string[] =>
  outcome.kind === 'done' ? [] : [...new Set(outcome.problems.map(({ code }) => code))].sort();

test.each([
  [1, 15, 2],
  [0, 30, 12],
])(
  'saves in which more than %i are left to sets, a page of two at a time, end as one by one',
  async (most, runs, least) => {
    setBounds({ mostByRow: most, mostKeptByRow: most, page: 2 });
    let left = 0;
    const hold = async (given: Case): Promise<void> => {
      const { model, rows, saves } = given;
      const workspace = await madeOf(given);
      if (!workspace) return;
      try {
        const { live } = await workspace.load();
        const { plan: inMemory } = buildPlan(model, live);
        const memory = new MemoryStore(model, true);
        rows.forEach((row) => memory.put(row));
        for (const row of await workspace.rows()) memory.put(row);
        for (const edits of saves) {
          const overlay = new Overlay(model, memory);
          const expected = runInMemory(model, overlay, propagate({ model, plan: inMemory, edits }));
          if (expected.kind === 'done') overlay.commit();
          const saved = await saveIn(workspace, edits);
          expect(refusedFor(saved)).toEqual(refusedFor(expected));
          if (saved.kind === 'done' && saved.rest) left += 1;
          const stored = await workspace.rows();
          const unversioned = (all: readonly Row[]) => printRows(all.map((row) => ({ ...row, version: 0 })));
          expect(unversioned(stored)).toBe(
            unversioned(model.types.flatMap(({ key }) => [...memory.rows(key)])),
          );
          expect(await driftIn(workspace)).toEqual([]);
        }
      } finally {
        await workspace.remove();
      }
    };
    await fc.assert(fc.asyncProperty(anyCase, hold), {
      numRuns: cases(runs, 10_000),
      endOnFailure: true,
    });
    expect(left).toBeGreaterThan(least);
  },
);

/** What waits: `rule id`. */
const waitingIn = (workspace: TestWorkspace): Promise<string[]> =>
  inSnapshot(async (transaction) => {
    const { schema, plan } = await workspace.load();
    const found = await run<{ rule: string; record: string }>(
      transaction,
      `SELECT rule::text, record::text FROM ${quote(schema)}._later`,
    );
    const names = new Map(plan.rules.map(({ id, name }) => [id, name]));
    return found.map(({ rule, record }) => `${names.get(rule)} ${record}`);
  });

/** Values that aren't what their rule gives over the records as they stand, and don't wait. */
async function forgottenIn(workspace: TestWorkspace): Promise<string[]> {
  const waiting = new Set(await waitingIn(workspace));
  const keyOf = (drifted: string) => /^(Rule \d+) .*?"id":"([^"]+)"/.exec(drifted)!.slice(1).join(' ');
  return (await driftIn(workspace)).filter((drifted) => !waiting.has(keyOf(drifted)));
}

test('rules of slower paces leave what waits for them noted, and are right once it is worked out', async () => {
  let waited = 0;
  const hold = async (given: Case): Promise<void> => {
    const workspace = await madeOf(given);
    if (!workspace) return;
    try {
      const { plan } = await workspace.load();
      const slower = plan.rules.filter(isSlower).map(({ id }) => id);
      const bring = (rules: readonly string[]) =>
        bringUpToDate({ workspace: workspace.key, person: null, rules });
      for (const [at, edits] of given.saves.entries()) {
        await saveIn(workspace, edits);
        expect(await forgottenIn(workspace)).toEqual([]);
        if (at % 2 === 0) await bring(slower.slice(0, 1)).catch(onlyRefused);
        expect(await forgottenIn(workspace)).toEqual([]);
      }
      waited += (await waitingIn(workspace)).length;
      // A rule that reads another slower one waits again for what that wrote.
      for (let rounds = 0; rounds <= slower.length; rounds += 1)
        if (await bring(slower).then(() => false, onlyRefused)) return;
      expect(await waitingIn(workspace)).toEqual([]);
      const stored = await workspace.rows();
      expect(keptIn(plan, stored)).toEqual(keptPlainly(given.model, plan, stored));
    } finally {
      await workspace.remove();
    }
  };
  await fc.assert(fc.asyncProperty(pacedCase, hold), { numRuns: cases(30, 2_000), endOnFailure: true });
  expect(waited).toBeGreaterThan(10);
});

/** A rule that reacts and can't tell what to do undoes the run; everything then waits on. */
function onlyRefused(error: unknown): true {
  expect(error).toBeInstanceOf(Refusal);
  return true;
}

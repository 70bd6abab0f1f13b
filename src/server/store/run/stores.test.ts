import { type Need, propagate, type RunOutcome, runWith } from '@/core/engine';
import { buildPlan } from '@/core/plan';
import { testKinds } from '@/core/testing/kinds-contract';
import { v7 as newId } from 'uuid';
import { type StoreHarness, testStore } from '@/core/testing/store-contract';
import { disconnect } from '@/server/database/connection';
import { saveIn } from '@/server/testing/random';
import { testWorkspace } from '@/server/testing/workspace';
import { SnapshotDriver } from './snapshot-driver';
import { inSnapshot } from '@/server/store/session/transactions';

afterAll(disconnect);

/** Real saves: each a transaction with its locks, statements and ledger. */
const postgres: StoreHarness = {
  open: async (given) => {
    const workspace = await testWorkspace(given);
    return {
      save: async (edits): Promise<RunOutcome> => saveIn(workspace, edits),
      rows: workspace.rows,
      close: workspace.remove,
    };
  },
};

/** Rehearsals on the real data: the database stays as it is, so the test sees the overlay's rows over the stored ones. */
const loading: StoreHarness = {
  open: async (given) => {
    const workspace = await testWorkspace(given);
    const saves: Parameters<Awaited<ReturnType<StoreHarness['open']>>['save']>[0][] = [];
    const replay = () =>
      inSnapshot(async (transaction) => {
        const loaded = await workspace.load();
        const { plan } = buildPlan(loaded.model, loaded.live);
        const driver = new SnapshotDriver(loaded, transaction);
        let last = null;
        for (const [at, edits] of saves.entries()) {
          // One run over another in one overlay: each is told apart by a number of its own.
          const apart = (need: Need): Need =>
            need.kind === 'write'
              ? { ...need, writes: need.writes.map((write) => ({ ...write, run: -1 - at })) }
              : need;
          last = await runWith(
            (need) => driver.answer(apart(need)),
            propagate({ model: loaded.model, plan, edits, newId }),
          );
        }
        for (const { key } of loaded.model.types) await driver.answer({ kind: 'everything', type: key });
        const deleted = (await workspace.rows()).filter((row) => row.deleted);
        return {
          last,
          rows: [...deleted, ...loaded.model.types.flatMap(({ key }) => [...driver.overlay.rows(key)])],
        };
      });
    return {
      save: async (edits) => {
        saves.push(edits);
        const { last } = await replay();
        if (last!.kind === 'refused') saves.pop();
        return last!;
      },
      rows: async () => (await replay()).rows,
      close: workspace.remove,
    };
  },
};

testStore('PostgreSQL', postgres);
testStore('rehearsal on PostgreSQL', loading);
testKinds('PostgreSQL', postgres);
testKinds('rehearsal on PostgreSQL', loading);

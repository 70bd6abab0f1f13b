import { testKinds } from '@/core/testing/kinds-contract';
import { numberedIds } from '@/core/verify';
import { testStore, type StoreHarness } from '@/core/testing/store-contract';
import { MemoryStore, Overlay, propagate, type RecordStore, runInMemory } from '@/core/engine';

/** A store in memory; each save is rehearsed in an overlay and then handed down. */
const inMemory = (wrap: (store: MemoryStore) => RecordStore): StoreHarness => ({
  open: async ({ model, plan, rows }) => {
    const base = new MemoryStore(model, true);
    rows.forEach((row) => base.put(row));
    const store = wrap(base);
    const newId = numberedIds();
    const run = (input: Pick<Parameters<typeof propagate>[0], 'edits' | 'fill'>) => {
      const overlay = new Overlay(model, store);
      const outcome = runInMemory(model, overlay, propagate({ model, plan, newId, ...input }));
      if (outcome.kind === 'done') overlay.commit();
      return outcome;
    };
    run({ edits: [], fill: plan.rules.map((rule) => rule.id) });
    return {
      save: async (edits) => run({ edits }),
      rows: async () => model.types.flatMap((type) => [...store.rows(type.key)]),
      close: async () => undefined,
    };
  },
});

const memory = inMemory((store) => store);
const overlay = inMemory((store) => new Overlay(store.model, store));

testStore('memory', memory);
testStore('overlay', overlay);
testKinds('memory', memory);
testKinds('overlay', overlay);

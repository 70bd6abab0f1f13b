import { MemoryStore, Overlay, propagate, type Row, runInMemory } from '@/core/engine';
import { readModel, typeIn } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { Rule } from '@/core/rules';
import type { Value } from '@/core/values';
import { exhibitionId, FIVE, loanId, loanValues, MODEL } from './data';
import { compare, type Figure, timed } from './measure';

const model = readModel(MODEL);
const rules = FIVE.map((definition, at): Rule => ({
  id: `rule-${at}`,
  version: `version-${at}`,
  name: `Rule ${at}`,
  definition,
}));
const { plan } = buildPlan(model, rules);

const rowOf = (type: string, id: string, values: Record<string, Value>): Row => ({
  ...{ type, id, version: 1, deleted: false, errors: {} },
  values: { ...Object.fromEntries(typeIn(model, type).fields.map(({ key }) => [key, null])), ...values },
});

/** So many loans, a hundred under each exhibition. */
function storeOf(loans: number): MemoryStore {
  const store = new MemoryStore(model, true);
  for (let at = 0; at < loans / 100; at += 1)
    store.put(rowOf('exhibition', exhibitionId(at), { title: `Exhibition ${at}` }));
  for (let at = 0; at < loans; at += 1)
    store.put(rowOf('loan', loanId(at), loanValues(at, exhibitionId(Math.floor(at / 100)))));
  return store;
}

/** The five by hand, on plain numbers in arrays. */
function byHand(loans: number): () => number {
  const parents = Int32Array.from({ length: loans }, (_, at) => Math.floor(at / 100));
  const agreed = Uint8Array.from({ length: loans }, (_, at) =>
    ['agreed', 'requested', 'agreed', 'declined'][at % 4] === 'agreed' ? 1 : 0,
  );
  const insured = Float64Array.from({ length: loans }, (_, at) => (at % 997) * 125000 + 25);
  const fees = Float64Array.from({ length: loans }, (_, at) =>
    at % 5 === 0 ? -1 : ((at * 7) % 101) * 125000 + 25,
  );
  const due = Array.from({ length: loans }, (_, at) => `2027-${String((at % 12) + 1).padStart(2, '0')}-15`);
  return () => {
    const size = Math.ceil(loans / 100);
    const totals = new Float64Array(size);
    const counts = new Int32Array(size);
    const feeTotals = new Float64Array(size);
    const feeCounts = new Int32Array(size);
    const last: string[] = new Array<string>(size).fill('');
    for (let at = 0; at < loans; at += 1) {
      const parent = parents[at]!;
      const fee = fees[at]!;
      if (fee >= 0) {
        feeTotals[parent]! += fee;
        feeCounts[parent]! += 1;
      }
      if (agreed[at] === 0) continue;
      totals[parent]! += insured[at]!;
      counts[parent]! += 1;
      if (due[at]! > last[parent]!) last[parent] = due[at]!;
    }
    let check = 0;
    for (let at = 0; at < size; at += 1)
      check += totals[at]! + counts[at]! + feeTotals[at]! / Math.max(1, feeCounts[at]!) + last[at]!.length;
    return check;
  };
}

const fill = (store: MemoryStore) => {
  const overlay = new Overlay(model, store);
  runInMemory(
    model,
    overlay,
    propagate({ model, plan, edits: [], isAlone: true, fill: rules.map(({ id }) => id) }),
  );
  return overlay;
};

/** What a staged edit cost in the quickest general incremental library that was tried, on this kind of machine. */
const LIBRARY = 0.084;

export async function benchMemory(): Promise<Figure[]> {
  const figures: Figure[] = [];
  const hundredThousand = storeOf(100_000);
  const plain = byHand(100_000);
  figures.push(
    await compare({
      work: 'the same where all values are new: 5,000 of them written',
      ...{ must: null, goal: null, rounds: 9, warmUp: 5 },
      ours: () => timed(() => fill(hundredThousand)),
      theirs: () => timed(plain),
    }),
  );
  fill(hundredThousand).commit();
  figures.unshift(
    await compare({
      work: 'recalculation in memory, 100,000 children, five roll-ups',
      ...{ must: 4, goal: 3, rounds: 21, warmUp: 10 },
      note: 'all worked out again from the children; the values stand',
      ours: () => timed(() => fill(hundredThousand)),
      theirs: () => timed(plain),
    }),
  );
  for (const loans of [2_000, 20_000, 200_000]) {
    const store = storeOf(loans);
    fill(store).commit();
    let at = 0;
    const stage = () => {
      at += 1;
      const edit = {
        kind: 'edit',
        type: 'loan',
        id: loanId((at * 4) % loans),
        values: { insuredValue: loanValues(at, '').insuredValue! },
      } as const;
      runInMemory(model, new Overlay(model, store), propagate({ model, plan, edits: [edit], isAlone: true }));
    };
    figures.push(
      await compare({
        work: `one staged edit in memory, without trace, ${loans.toLocaleString('en')} children`,
        ...{ must: 1, goal: 0.5, rounds: 15, warmUp: 12 },
        note: `against the ${LIBRARY} ms of a general incremental library at 100,000`,
        ours: async () =>
          (await timed(() => {
            for (let i = 0; i < 500; i += 1) stage();
          })) / 500,
        theirs: async () => LIBRARY,
      }),
    );
  }
  return figures;
}

import { answerInMemory } from '@/core/engine/memory-driver';
import { MemoryStore, Overlay, propagate, type Row, runInMemory } from '@/core/engine';
import { readModel, typeIn } from '@/core/model';
import { buildPlan } from '@/core/plan';
import type { Rule } from '@/core/rules';
import type { Value } from '@/core/values';
import { exhibitionId, FIVE, loanId, loanValues, MODEL } from './data';
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
function storeOf(loans: number): MemoryStore {
  const store = new MemoryStore(model, true);
  for (let at = 0; at < loans / 100; at += 1)
    store.put(rowOf('exhibition', exhibitionId(at), { title: `Exhibition ${at}` }));
  for (let at = 0; at < loans; at += 1)
    store.put(rowOf('loan', loanId(at), loanValues(at, exhibitionId(Math.floor(at / 100)))));
  return store;
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
const t = (f: () => void) => {
  const a = performance.now();
  f();
  return performance.now() - a;
};
const what = process.argv[2];
for (const loans of what === 'edit' ? [2000, 20000, 200000] : what === 'edit1' ? [20000] : []) {
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
    const gen = propagate({ model, plan, edits: [edit], isAlone: true });
    if (process.argv[3]) {
      const o = new Overlay(model, store);
      let st = gen.next();
      const ks: string[] = [];
      while (!st.done) {
        ks.push(st.value.kind);
        st = gen.next(answerInMemory(model, o, st.value));
      }
      if (at < 4) console.log(ks.join(' '));
    } else runInMemory(model, new Overlay(model, store), gen);
  };
  const many = what === 'edit1' ? 20000 : 1000;
  const times: number[] = [];
  for (let i = 0; i < 10; i += 1)
    times.push(
      t(() => {
        for (let j = 0; j < many; j += 1) stage();
      }) / many,
    );
  console.log(loans, times.map((x) => x.toFixed(4)).join(' '));
}
if (what === 'again') {
  const store = storeOf(100_000);
  fill(store).commit();
  const n = Number(process.argv[3] ?? 12);
  for (let i = 0; i < n; i += 1) {
    const x = t(() => fill(store)).toFixed(1);
    if (i < 12) console.log(x);
  }
}
if (what === 'fill') {
  const store = storeOf(100_000);
  const n = Number(process.argv[3] ?? 12);
  for (let i = 0; i < n; i += 1) {
    const x = t(() => fill(store)).toFixed(1);
    if (i < 12) console.log(x);
  }
}

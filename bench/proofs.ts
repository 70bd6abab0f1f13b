import { emptyRow, MemoryStore, type Row } from '@/core/engine';
import { type Model, readModel } from '@/core/model';
import { type Value } from '@/core/values';
import {
  numberedIds,
  PlannedRules,
  type Proof,
  proofThrough,
  readyProof,
  rehearse,
  strengthOf,
} from '@/core/verify';
import { WRENFIELD } from '@/demo/model';
import { DAY, demoProofs, demoRules } from '@/demo/proofs';
import { type Figure, within } from './measure';

const model = readModel(WRENFIELD, DAY);
const rules = demoRules();
const proofs = demoProofs().map((proof, at): Proof => ({ ...proof, id: String(at) }));

const idOf = (number: number): string => `00000000-0000-7000-8000-${number.toString(16).padStart(12, '0')}`;

/** One exhibition with 1,000 loans of 19 artefacts each: 20,001 records. */
function family(of: Model): MemoryStore {
  const store = new MemoryStore(of, true);
  let next = 1;
  const put = (type: string, values: Readonly<Record<string, Value>>): string => {
    const row: Row = emptyRow(of, { type, id: idOf(next) });
    next += 1;
    store.put({ ...row, values: { ...row.values, ...values } });
    return row.id;
  };
  const exhibition = put('exhibition', { title: 'Large' });
  for (let at = 0; at < 1_000; at += 1) {
    const loan = put('loan', {
      title: `Loan ${at}`,
      exhibition,
      stage: at % 3 === 0 ? 'agreed' : 'requested',
    });
    for (let piece = 0; piece < 19; piece += 1) put('artefact', { title: `Piece ${at}.${piece}`, loan });
  }
  return store;
}

/** One edit on a family of 20,000 records, with the demo's rules: all of them take part, those that read it follow. */
function rehearsal(): () => void {
  const store = family(model);
  const input = { model, live: rules, drafts: [], people: new Set<string>(), names: {} };
  let turn = 0;
  return () => {
    turn += 1;
    const values = { agreedValue: { amount: String(turn), currency: 'GBP' } };
    const edits = [{ kind: 'edit' as const, type: 'artefact', id: idOf(3), values }];
    const { rehearsal: done } = rehearse({ ...input, store, edits, newId: numberedIds() });
    if (done.kind !== 'done') throw new Error('The rehearsal was refused');
  };
}

/** The demo's proofs, up to 200, as after a change of a rule. */
function allProofs(): void {
  const planned = new PlannedRules(rules);
  for (const proof of proofs.slice(0, 200))
    if (proofThrough(readyProof(model, proof), planned).kind !== 'held')
      throw new Error(`${proof.name} fails`);
}

/** 60 ways to change a rule, each run through 20 proofs of other rules, which let all through, so that none is spared. */
function variants(): void {
  let left = 60 * 20;
  for (const rule of [...rules].reverse()) {
    const others = proofs.filter((proof) => proof.rule !== rule.id).slice(0, 20);
    const run = strengthOf({ model, rules, rule, proofs: others });
    for (let step = run.next(); !step.done && step.value.phase === 'proofs'; step = run.next()) {
      left -= 1;
      if (left === 0) return;
    }
  }
}

/** What an administrator waits for while verifying; each against the time that it may take, in milliseconds. */
export const benchProofs = async (): Promise<Figure[]> => [
  await within('one edit rehearsed on a family of 20,000 records, 41 rules', 50, rehearsal()),
  await within(`${Math.min(200, proofs.length)} proofs`, 1_000, allProofs),
  await within('60 ways to change a rule, 20 proofs each', 2_000, variants),
];

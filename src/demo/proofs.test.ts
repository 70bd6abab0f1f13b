import { readModel } from '@/core/model';
import {
  isProvablyEquivalent,
  PlannedRules,
  type Proof,
  proofThrough,
  readyProof,
  strengthOf,
  type Variant,
  variantsOf,
} from '@/core/verify';
import { WRENFIELD } from './model';
import { DAY, demoProofs, demoRules } from './proofs';

const model = readModel(WRENFIELD, DAY);
const rules = demoRules();
const proofs = demoProofs().map((proof, at): Proof => ({ ...proof, id: String(at) }));
const proven = rules.filter(({ id }) => proofs.some(({ rule }) => rule === id));

test('all proofs of the demo hold', () => {
  const planned = new PlannedRules(rules);
  const failing = proofs.filter((proof) => proofThrough(readyProof(model, proof), planned).kind !== 'held');
  expect(failing.map(({ name }) => name)).toEqual([]);
  expect(proofs.length).toBeGreaterThan(150);
});

/** Whether a set of proofs notices a rule put wrong. */
function isCaught(id: string, { definition }: Variant, by: readonly Proof[]): boolean {
  const wrong = new PlannedRules(rules.map((rule) => (rule.id === id ? { ...rule, definition } : rule)));
  return by.some((proof) => proofThrough(readyProof(model, proof), wrong).kind !== 'held');
}

/** Ways to put a rule wrong for which no case was found: whether they matter is undecided. */
const OPEN = [
  'with nothing where none count',
  'with 0.01 GBP where none count',
  'with -0.01 GBP where none count',
  'only as records are made or come under it',
  'without “Artefact is not empty”',
  'one each time',
  'changes cascaded at once',
  'changes cascaded as a proposal',
  'changes taken back as a proposal',
  'changes taken back not at all',
  'with what was made left afterwards',
  'with Insurance number emptied',
];

test('planted faults: every rule of the demo put wrong is caught by its proofs', () => {
  const missed: string[] = [];
  let planted = 0;
  for (const rule of proven) {
    const own = proofs.filter((proof) => proof.rule === rule.id);
    for (const variant of variantsOf(model, rule)) {
      if (isProvablyEquivalent(model, rule.definition, variant.definition)) continue;
      planted += 1;
      if (!isCaught(rule.id, variant, own)) missed.push(variant.what);
    }
  }
  expect(planted).toBeGreaterThanOrEqual(300);
  expect(missed.filter((what) => !OPEN.includes(what))).toEqual([]);
  expect(missed.length).toBeLessThanOrEqual(OPEN.length + 3);
});

test('of a set of proofs with one left out every fault that it lets through is named', () => {
  let named = 0;
  for (const rule of proven.filter((_, at) => at % 3 === 0)) {
    const [, ...left] = proofs.filter((proof) => proof.rule === rule.id);
    const run = strengthOf({ model, rules, rule, proofs: left });
    let step = run.next();
    while (!step.done) step = run.next();
    const { cases, same, undecided, tried, noticed } = step.value;
    const said = new Set([...cases.flatMap(({ notices }) => notices), ...same, ...undecided]);
    const through = variantsOf(model, rule).filter((variant) => !isCaught(rule.id, variant, left));
    expect(through.filter(({ what }) => !said.has(what))).toEqual([]);
    expect(said.size).toBe(tried - noticed + same.length);
    named += said.size;
  }
  expect(named).toBeGreaterThan(20);
});

import type { WireEdit } from '@/core/engine';
import type { Rule } from '@/core/rules';
import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { proofOf } from '@/core/testing/proofs';
import {
  caseSort,
  proposeExpectations,
  familyStore,
  resultWords,
  numberedIds,
  type Proof,
  recordToWire,
  rehearse,
  runProof,
} from '@/core/verify';

const model = galleries();
const total = ruleOf(INSURED_TOTAL, 1, 'Insured total');
const [silk, salt, robes, pots] = [uuid('11'), uuid('12'), uuid('21'), uuid('22')];
const rows = [
  rowOf(model, 'exhibition', silk, { title: 'Silk', insuredTotal: gbp(107) }),
  rowOf(model, 'exhibition', salt, { title: 'Salt', insuredTotal: gbp(0) }),
  rowOf(model, 'loan', robes, { title: 'Robes', exhibition: silk, stage: 'agreed', insuredValue: gbp(100) }),
  rowOf(model, 'loan', pots, { title: 'Pots', exhibition: silk, stage: 'agreed', insuredValue: gbp(7) }),
];

/** What is proposed of some edits, and the proof that it makes. */
function proposedOf(edits: WireEdit[], rule: Rule = total) {
  const bare = proofOf(model, rule.id, rows, { runs: [edits] });
  const rehearsed = rehearse({
    ...{ model, live: [rule], drafts: [], edits, people: new Set<string>(), names: {} },
    ...{ store: familyStore(model, bare.family), newId: numberedIds(uuid('ff')) },
  });
  const records = rows.map((row) => recordToWire(model, row));
  const proposed = proposeExpectations(model, {
    ...{ rule, rehearsals: [rehearsed.rehearsal], records, nameOf: () => undefined },
  });
  const proof: Proof = { ...bare, expectations: proposed.map(({ expectation }) => expectation) };
  return { words: proposed.map(({ words }) => words), proof, proposed };
}

test('what the rule wrote becomes so, where it wrote nothing stays so; that is a proof that holds', () => {
  const { words, proof, proposed } = proposedOf([
    { kind: 'edit', type: 'loan', id: pots, values: { stage: 'declined' } },
  ]);
  expect(words).toEqual(['Insured total of Silk becomes 100.00 GBP', 'Insured total of Salt stays 0.00 GBP']);
  expect(proposed.every(({ isOwn }) => isOwn)).toBe(true);
  expect(runProof(model, [total], proof)).toEqual({ kind: 'held' });
});

test('of another rule it is said in words what should have come, and what did', () => {
  const { proof } = proposedOf([{ kind: 'edit', type: 'loan', id: pots, values: { stage: 'declined' } }]);
  const every = ruleOf({ ...INSURED_TOTAL, condition: null }, 1);
  const result = runProof(model, [every], proof);
  expect(resultWords(model, proof, result)).toEqual([
    'Insured total of Silk should become 100.00 GBP; it was 107.00 GBP.',
  ]);
});

test('a save that is refused is expected to be refused for that', () => {
  const { words, proof } = proposedOf([
    {
      kind: 'edit',
      type: 'exhibition',
      id: silk,
      values: { insuredTotal: { amount: '1', currency: 'GBP' } },
    },
  ]);
  expect(words).toHaveLength(1);
  expect(words[0]).toMatch(/^It is refused: /);
  expect(runProof(model, [total], proof)).toEqual({ kind: 'held' });
  const result = runProof(model, [], proof);
  expect(resultWords(model, proof, result)).toEqual(['It should be refused; it was saved.']);
});

describe('a draft that fills something before any edit', () => {
  const unfilled = rows.map((row) =>
    row.id === silk ? { ...row, values: { ...row.values, insuredTotal: null } } : row,
  );
  const proposedWith = (edits: WireEdit[]) => {
    const bare = proofOf(model, total.id, unfilled, { runs: edits.length > 0 ? [edits] : [] });
    const { rehearsal, after } = rehearse({
      ...{ model, live: [], drafts: [total], edits, people: new Set<string>(), names: {} },
      ...{ store: familyStore(model, bare.family), newId: numberedIds(uuid('ff')) },
    });
    const records = rows.map(({ type, id }) => recordToWire(model, after.row(type, id)!));
    const proposed = proposeExpectations(model, {
      ...{ rule: total, rehearsals: [rehearsal], records, nameOf: () => undefined },
    });
    const proof: Proof = { ...bare, expectations: proposed.map(({ expectation }) => expectation) };
    return { words: proposed.map(({ words }) => words), proof };
  };

  test('must not act where an edit changes nothing of it: what it filled stays', () => {
    const { words, proof } = proposedWith([
      { kind: 'edit', type: 'loan', id: pots, values: { title: 'Vases' } },
    ]);
    expect(words).toEqual(['Insured total of Silk stays 107.00 GBP', 'Insured total of Salt stays 0.00 GBP']);
    expect(caseSort(proof)).toBe('leaves');
    expect(runProof(model, [total], proof)).toEqual({ kind: 'held' });
  });

  test('where nothing is staged what it fills is what is expected', () => {
    const { words, proof } = proposedWith([]);
    expect(words[0]).toBe('Insured total of Silk becomes 107.00 GBP');
    expect(caseSort(proof)).toBe('acts');
  });
});

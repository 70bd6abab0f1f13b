import { MemoryStore } from '@/core/engine';
import { buildPlan } from '@/core/plan';
import type { RollUp } from '@/core/rules';
import { fieldOf, galleries, PART_COUNT, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { proofOf } from '@/core/testing/proofs';
import {
  type Expectation,
  numberedIds,
  PlannedRules,
  proofThrough,
  readyProof,
  rehearse,
  SaveSession,
  workedOut,
} from '@/core/verify';

// Two institutions that are part of one another: a rule that goes all the way down can't be worked out on them.
const model = galleries();
const [museum, annex] = [uuid('31'), uuid('32')];
const rows = [
  rowOf(model, 'institution', museum, { title: 'Museum', partOf: annex }),
  rowOf(model, 'institution', annex, { title: 'Annex', partOf: museum }),
];
const draft = ruleOf<RollUp>({ ...PART_COUNT, aggregate: 'sum', value: fieldOf('partCount') }, 1);
const store = new MemoryStore(model, true);
rows.forEach((row) => store.put(row));
const edit = { kind: 'edit', type: 'institution', id: museum, values: { title: 'House' } } as const;
const input = {
  ...{ model, store, live: [], drafts: [draft], names: {}, people: new Set<string>() },
  newId: numberedIds(),
};
const edits = [
  {
    code: 'rule.loop',
    message: expect.stringMatching(
      /^Before any edit, what the rules keep can’t be worked out on these records: .*“Museum” would be a part of itself/,
    ),
  },
];

test('a rehearsal says that the fill of a draft is refused, rather than going on without it', () => {
  const { rehearsal, after } = rehearse({ ...input, edits: [edit] });
  expect(rehearsal).toEqual({ kind: 'refused', edits: [expect.objectContaining(edits[0])] });
  expect(after.row('institution', museum)?.values).toMatchObject({ title: 'Museum', partCount: null });
  const settings = [{ run: 0, day: '2027-04-02' }];
  const { rehearsals } = new SaveSession(input).rehearse({ saves: [[edit], [edit]], settings });
  expect(rehearsals).toMatchObject([{ kind: 'refused', edits }]);
});

test('a proof whose rules can’t be worked out at its start holds nothing, not even that a save is refused', () => {
  const expectations: Expectation[] = [
    { kind: 'isRefused', run: 0, code: 'rule.loop' },
    { kind: 'becomes', type: 'institution', id: museum, field: 'title', value: 'House' },
  ];
  const proof = proofOf(model, draft.id, rows, { runs: [[edit]], expectations });
  const result = proofThrough(readyProof(model, proof), new PlannedRules([draft]));
  const found = { problems: edits };
  expect(result).toMatchObject({ kind: 'missed', missed: [{ found }, { found }] });
  expect(() => workedOut(model, buildPlan(model, [draft]).plan, proof.family)).toThrow('Before any edit');
});

import type { RuleView } from '@/core/api';
import { INSURED_TOTAL, LOAN_ARTEFACTS, galleries } from '@/core/testing/galleries';
import { type Beside, choicesOf, filteredRules, groupedRules } from './rule-list-model';

const viewOf = (id: string, given: Partial<RuleView>): RuleView => ({
  ...{
    id,
    name: id,
    isNamed: true,
    note: '',
    tags: [],
    state: 'live',
    version: 1,
    definition: INSURED_TOTAL,
  },
  ...{ sentence: '', liveDefinition: null, hasChangesNotLive: false, stateChangedAt: '', pilot: null },
  ...{ later: null, findings: [] },
  ...given,
});

const total = viewOf('Insured total', {
  ...{ sentence: 'On every Exhibition, keep Insured total …', tags: ['Money', 'Insurer'] },
  note: 'Asked for by Musée de Valdorne',
});
const pieces = viewOf('Pieces', {
  ...{ definition: { ...LOAN_ARTEFACTS, pace: 'soonAfter' }, state: 'paused' },
  ...{ tags: ['money'], findings: [{ rule: 'Pieces', place: 'target', code: 'rule.target', message: 'x' }] },
});
const tried = viewOf('Tried', {
  pilot: { scope: { kind: 'records', ids: [] }, words: 'two', tried: null },
  hasChangesNotLive: true,
});
const RULES = [total, pieces, tried];
const beside: Beside = {
  model: galleries(),
  requests: [
    { id: 'r1', name: 'For the insurer', rules: [{ id: total.id } as never, { id: tried.id } as never] },
  ],
  proofs: [{ rule: total.id, proofs: 2, held: 1 }],
};
const namesOf = (rules: readonly RuleView[]) => rules.map(({ name }) => name);
const filtered = (filters: Parameters<typeof filteredRules>[1]) =>
  namesOf(filteredRules(RULES, filters, beside));

test('every word that is searched must stand in the name, the sentence, the note or a tag, however it is written', () => {
  expect(filtered({ search: 'TOTAL exhibition' })).toEqual(['Insured total']);
  expect(filtered({ search: 'musee' })).toEqual(['Insured total']);
  expect(filtered({ search: 'money' })).toEqual(['Insured total', 'Pieces']);
  expect(filtered({ search: 'total loan' })).toEqual([]);
});

test.each([
  [{ type: 'loan' }, ['Pieces']],
  [{ kind: 'rollUp' }, ['Insured total', 'Pieces', 'Tried']],
  [{ state: 'live' }, ['Insured total']],
  [{ state: 'pilot' }, ['Tried']],
  [{ state: 'changed' }, ['Tried']],
  [{ pace: 'soonAfter' }, ['Pieces']],
  [{ proofs: 'fail' }, ['Insured total']],
  [{ proofs: 'none' }, ['Pieces', 'Tried']],
  [{ findings: 'hindered' }, ['Pieces']],
  [{ request: 'r1' }, ['Insured total', 'Tried']],
  [{ request: 'none' }, ['Pieces']],
  [{ tag: 'money' }, ['Insured total', 'Pieces']],
  [{ tag: 'none' }, ['Tried']],
  [{ tag: 'money', state: 'paused' }, ['Pieces']],
])('rules are narrowed by %j', (filters, names) => expect(filtered(filters)).toEqual(names));

test('they stand under what they have alike, in the order of the model; one with two tags under both', () => {
  const groups = (by: Parameters<typeof groupedRules>[1]) =>
    groupedRules(RULES, by, beside).map(({ label, rules }) => [label, namesOf(rules)]);
  expect(groups('type')).toEqual([
    ['Exhibitions', ['Insured total', 'Tried']],
    ['Loans', ['Pieces']],
  ]);
  expect(groups('tag')).toEqual([
    ['Insurer', ['Insured total']],
    ['Money', ['Insured total', 'Pieces']],
    ['Without a tag', ['Tried']],
  ]);
  expect(groups('state')).toEqual([
    ['Live', ['Insured total']],
    ['Pilot', ['Tried']],
    ['Paused', ['Pieces']],
  ]);
  expect(groups('request')).toEqual([
    ['For the insurer', ['Insured total', 'Tried']],
    ['For no request', ['Pieces']],
  ]);
});

test('only what there is can be chosen', () => {
  expect(choicesOf('pace', RULES, beside).map(({ value }) => value)).toEqual(['withTheSave', 'soonAfter']);
  expect(choicesOf('proofs', RULES, { ...beside, proofs: null })).toEqual([]);
});

import type { Expression } from '@/core/expression';
import { readModel } from '@/core/model';
import { GALLERIES } from '@/core/testing/galleries';
import { hiddenLists, sectionsOf } from './sections';

const isAgreed: Expression = {
  ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: [], field: 'stage' } },
  right: { kind: 'constant', value: 'agreed' },
};
const isOpen: Expression = {
  ...{ kind: 'compare', operator: '=', left: { kind: 'field', route: ['exhibition'], field: 'open' } },
  right: { kind: 'constant', value: true },
};
const model = readModel({
  types: GALLERIES.types.map((type) =>
    type.key === 'loan'
      ? {
          ...type,
          sections: [
            { name: 'Return', fields: ['dueBack'], condition: isAgreed, lists: ['artefact.loan'] },
            { name: 'While open', fields: ['weight'], condition: isOpen },
          ],
        }
      : type,
  ),
});

test('fields stand in their sections, those in none first; a section is shown where its condition holds for what is entered', () => {
  const names = (values: Record<string, string | null>) =>
    sectionsOf(model, 'loan', values).map(({ name, fields }) => [name, fields.map(({ key }) => key)]);
  const loose = ['title', 'exhibition', 'lender', 'stage', 'insuredValue', 'artefactCount'];
  expect(names({ stage: 'agreed' })).toEqual([
    ['', loose],
    ['Return', ['dueBack']],
    // What stands up a link isn't known here, so it isn't hidden by a guess.
    ['While open', ['weight']],
  ]);
  expect(names({ stage: null }).map(([name]) => name)).toEqual(['', 'While open']);
});

test('a list of children is hidden with its section', () => {
  const record = { type: 'loan', id: '1', version: 1, deleted: false, errors: {} };
  expect([...hiddenLists(model, { ...record, values: { stage: 'requested' } })]).toEqual(['artefact.loan']);
  expect([...hiddenLists(model, { ...record, values: { stage: 'agreed' } })]).toEqual([]);
});

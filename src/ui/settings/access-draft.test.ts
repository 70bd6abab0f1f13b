import { GALLERIES } from '@/core/testing/galleries';
import { readModel } from '@/core/model';
import { ALL_OF, ownChoices, withAccess, withField } from './access-draft';

test('what comes to all isn’t said', () => {
  const without = { ...ALL_OF, delete: false };
  const role = withAccess({}, 'loan', without);
  expect(role).toEqual({ loan: without });
  expect(withAccess(role, 'loan', ALL_OF)).toEqual({});
  const hidden = withField(ALL_OF, 'weight', 'hidden');
  expect(hidden.fields).toEqual({ weight: 'hidden' });
  expect(withAccess(role, 'artefact', hidden)).toEqual({ loan: without, artefact: hidden });
  expect(withField(hidden, 'weight', 'changed')).toEqual(ALL_OF);
});

test('records are somebody’s own by a person’s field, theirs or up two links', () => {
  const model = readModel({
    types: GALLERIES.types.map((type) =>
      type.key === 'exhibition'
        ? { ...type, fields: [...type.fields, { key: 'curator', name: 'Curator', type: { kind: 'person' } }] }
        : type,
    ),
  });
  expect(ownChoices(model, 'exhibition')).toEqual([
    { own: { route: [], field: 'curator' }, words: 'Curator' },
  ]);
  expect(ownChoices(model, 'artefact')).toEqual([
    { own: { route: ['loan', 'exhibition'], field: 'curator' }, words: 'Loan · Exhibition · Curator' },
  ]);
  expect(ownChoices(model, 'institution')).toEqual([]);
});

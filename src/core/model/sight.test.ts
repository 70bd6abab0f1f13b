import { GALLERIES, galleries } from '@/core/testing/galleries';
import {
  checkAccess,
  fieldSeen,
  ownerOf,
  readModel,
  type RoleAccess,
  seenDefinition,
  sightOf,
  type TypeAccess,
} from '.';

const ME = 'me';
const all: TypeAccess = {
  ...{ see: true, add: true, change: true, delete: true, export: true },
  ...{ fields: {}, selection: null, own: null },
};
const own = { ...all, own: { route: ['exhibition'], field: 'curator' } };

test('who has a role that says nothing sees all; several see what each sees, and nothing that one of them hides', () => {
  expect(sightOf([], ME)).toBeNull();
  expect(sightOf([{ loan: own }, null], ME)).toBeNull();
  expect(sightOf([{ loan: own }, {}], ME)).toBeNull();
  // Of a type that one of them says nothing of, all is seen.
  expect(sightOf([{ loan: own }, { artefact: all }], ME)).toBeNull();
  const sight = sightOf(
    [
      {
        loan: { ...own, add: false, fields: { weight: 'hidden', stage: 'seen' } },
        artefact: { ...all, see: false },
      },
      { loan: { ...all, selection: 'dear', change: false }, artefact: { ...all, see: false } },
    ],
    ME,
  )!;
  expect(sight.get('artefact')).toBeNull();
  expect(sight.get('loan')).toMatchObject({
    add: true,
    change: true,
    fields: { weight: 'hidden', stage: 'seen' },
  });
  expect(sight.get('loan')?.where).toHaveLength(2);
  expect(sight.get('loan')?.where?.[0]).toEqual({
    ...{ kind: 'compare', operator: '=' },
    left: { kind: 'field', route: ['exhibition'], field: 'curator' },
    right: { kind: 'ofRun', what: 'me' },
  });
  // Who looks is only said where it may be read: others who see the same see it alike.
  expect(sight.get('loan')?.me).toBe(ME);
  const dear = sightOf([{ loan: { ...all, selection: 'dear' } }], ME)!;
  expect(dear.get('loan')).not.toHaveProperty('me');
  expect((['weight', 'stage', 'title'] as const).map((field) => fieldSeen(sight, 'loan', field))).toEqual([
    'hidden',
    'seen',
    'changed',
  ]);
  expect(fieldSeen(sight, 'artefact', 'title')).toBe('hidden');
  expect(fieldSeen(sight, 'institution', 'title')).toBe('changed');
  // One that sees it all of them, and one that doesn't see it: what the other sees.
  const either = sightOf([{ loan: { ...all, see: false } }, { loan: own }], ME);
  expect(either?.get('loan')?.where).toHaveLength(1);
});

test('a model that is seen in part names nothing that is hidden', () => {
  const isEmpty = (field: string) =>
    ({ kind: 'presence', operator: 'isEmpty', operand: { kind: 'field', route: [], field } }) as const;
  const definition = {
    ...GALLERIES,
    types: GALLERIES.types.map((type) =>
      type.key === 'loan'
        ? {
            ...type,
            openLinks: [{ key: 'from', name: 'From', links: ['exhibition', 'lender'] }],
            sections: [
              { name: 'Money', fields: ['insuredValue', 'stage'], condition: isEmpty('insuredValue') },
            ],
          }
        : type,
    ),
    selections: [
      { key: 'worthless', name: 'Worthless', type: 'loan', condition: isEmpty('insuredValue') },
      { key: 'vague', name: 'Vague', type: 'loan', condition: isEmpty('stage') },
      { key: 'fragile', name: 'Fragile', type: 'artefact', condition: isEmpty('fragile') },
    ],
  };
  const access: RoleAccess = {
    loan: { ...all, fields: { insuredValue: 'hidden' } },
    institution: { ...all, see: false },
    artefact: { ...all, see: false },
  };
  const fits = ({ condition }: { condition: unknown }) => !JSON.stringify(condition).includes('insuredValue');
  const seen = seenDefinition(definition, sightOf([access], ME)!, fits);
  expect(seen.types.map(({ key }) => key)).toEqual(['exhibition', 'loan']);
  const loan = seen.types[1]!;
  expect(loan.fields.map(({ key }) => key)).not.toContain('insuredValue');
  // A link to a type that is hidden goes with it.
  expect(loan.fields.map(({ key }) => key)).not.toContain('lender');
  expect(loan.openLinks).toEqual([{ key: 'from', name: 'From', links: ['exhibition'] }]);
  expect(loan.sections).toEqual([{ name: 'Money', fields: ['stage'] }]);
  expect(seen.selections?.map(({ key }) => key)).toEqual(['vague']);
  expect(() => readModel(seen)).not.toThrow();
});

test('what can’t be is refused, each with its place', () => {
  const model = galleries();
  const placesOf = (access: RoleAccess) => checkAccess(model, access).map(({ place }) => place);
  expect(placesOf({ loan: all, nothing: all })).toEqual(['nothing']);
  expect(placesOf({ loan: { ...all, fields: { title: 'hidden', lost: 'seen' } } })).toEqual([
    ...['loan.fields.title', 'loan.fields.lost'],
  ]);
  // Who adds a record fills what is required.
  expect(placesOf({ loan: { ...all, fields: { title: 'seen' } } })).toEqual(['loan.fields.title']);
  expect(placesOf({ loan: { ...all, add: false, fields: { title: 'seen' } } })).toEqual([]);
  expect(placesOf({ loan: { ...all, selection: 'none', own: { route: [], field: 'stage' } } })).toEqual([
    ...['loan.selection', 'loan.own'],
  ]);
  expect(ownerOf(model, 'loan', { route: ['nowhere'], field: 'x' })).toBeNull();
});

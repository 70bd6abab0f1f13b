import { GALLERIES } from '@/core/testing/galleries';
import { type Field, type ModelChange, type ModelDefinition, changeModel } from '.';

const typeOf = ({ types }: ModelDefinition, key: string) => types.find((type) => type.key === key);
const fieldOf = (model: ModelDefinition, type: string, key: string) =>
  typeOf(model, type)?.fields.find((field) => field.key === key);

function changed(model: ModelDefinition, ...changes: ModelChange[]): ModelDefinition {
  const result = changeModel(model, changes);
  if (!result.ok) throw new Error(result.problems.map(({ message }) => message).join('\n'));
  return result.definition;
}
const refusal = (...changes: ModelChange[]): string => {
  const result = changeModel(GALLERIES, changes);
  return result.ok ? 'accepted' : result.problems.map(({ message }) => message).join('\n');
};

const crate = {
  ...{ key: 'crate', name: 'Crate', plural: 'Crates', title: 'label' },
  fields: [{ key: 'label', name: 'Label', type: { kind: 'text' }, required: true }] as Field[],
};
const note: Field = { key: 'note', name: 'Note', type: { kind: 'longText' } };

test('types and fields are added, changed, put elsewhere and removed; the model before stays as it was', () => {
  const print = JSON.stringify(GALLERIES);
  const more = changed(
    GALLERIES,
    { kind: 'addType', type: crate },
    {
      ...{ kind: 'addField', type: 'artefact' },
      field: { key: 'crate', name: 'Crate', type: { kind: 'link', target: 'crate' }, otherEnd: 'Artefacts' },
    },
    { kind: 'addField', type: 'loan', field: note },
    { kind: 'moveField', type: 'loan', key: 'weight', to: 1 },
    { kind: 'changeType', key: 'loan', to: { name: 'Loan in', plural: 'Loans in', title: 'title' } },
  );
  expect(fieldOf(more, 'artefact', 'crate')).toBeDefined();
  expect(typeOf(more, 'loan')).toMatchObject({ name: 'Loan in' });
  expect(
    typeOf(more, 'loan')!
      .fields.map(({ key }) => key)
      .slice(0, 2),
  ).toEqual(['title', 'weight']);
  const fewer = changed(
    more,
    { kind: 'removeField', type: 'artefact', key: 'crate' },
    { kind: 'removeType', key: 'crate' },
  );
  expect(typeOf(fewer, 'crate')).toBeUndefined();
  expect(JSON.stringify(GALLERIES)).toBe(print);
});

test('an option list reaches every field that uses it, and can’t be removed while one does', () => {
  const options = ['green', 'red'].map((key) => ({ key, name: key }));
  const marked = changed(
    GALLERIES,
    { kind: 'addList', list: { key: 'marks', name: 'Marks', options } },
    ...['loan', 'artefact'].map((type): ModelChange => ({
      ...{ kind: 'addField', type },
      field: { key: 'mark', name: 'Mark', type: { kind: 'choice', options, list: 'marks' } },
    })),
  );
  const fewer = [{ key: 'green', name: 'Go' }];
  const result = changeModel(marked, [
    { kind: 'changeList', to: { key: 'marks', name: 'Marks', options: fewer }, replaced: { red: 'green' } },
  ]);
  if (!result.ok) throw new Error('refused');
  for (const type of ['loan', 'artefact'])
    expect(fieldOf(result.definition, type, 'mark')!.type).toMatchObject({ options: fewer });
  expect(result.steps.map((step) => step.kind)).toEqual(['changeField', 'changeField']);
  const removed = changeModel(marked, [{ kind: 'removeList', key: 'marks' }]);
  expect(removed.ok ? '' : removed.problems[0]!.message).toMatch(/used by Mark of Loan, Mark of Artefact/);
});

const as = (field: Partial<Field>): ModelChange => ({
  ...{ kind: 'changeField', type: 'loan' },
  to: { key: 'weight', name: 'Weight', type: { kind: 'number', scale: 3 }, ...field },
});

test.each<[string, ModelChange[], RegExp]>([
  ['a type that isn’t there', [{ kind: 'removeType', key: 'crate' }], /no type “crate”/],
  ['a field that isn’t there', [{ kind: 'removeField', type: 'loan', key: 'note' }], /no field “note”/],
  ['a type that others link to', [{ kind: 'removeType', key: 'loan' }], /named by Loan of Artefact/],
  [
    'the field that names its records',
    [{ kind: 'removeField', type: 'loan', key: 'title' }],
    /required text field/,
  ],
  ['one field twice', [as({ name: 'Mass' }), as({ name: 'Load' })], /changed twice/],
  ['a name that is taken', [as({ name: 'Stage' })], /two fields with the name “stage”/],
  ['a name with a line break', [as({ name: 'We\night' })], /on one line/],
  ['a default that doesn’t fit', [as({ default: 'heavy' })], /default doesn’t fit/],
  [
    'a long text that is unique',
    [{ kind: 'addField', type: 'loan', field: { ...note, unique: true } }],
    /can’t be unique/,
  ],
  ['a type twice', [{ kind: 'addType', type: { ...crate, name: 'Loan' } }], /Two types have the name/],
  [
    'a bridge without two links',
    [{ kind: 'addType', type: { ...crate, bridge: true } }],
    /exactly two links/,
  ],
  [
    'options that aren’t the list’s',
    [as({ type: { kind: 'choice', options: [], list: 'marks' } })],
    /at least one|no option list/,
  ],
])('%s is refused', (_, changes, message) => {
  expect(refusal(...changes)).toMatch(message);
});

test('a page is arranged in sections; a field that is removed leaves its section, and none stands in two', () => {
  const sections = [
    { name: 'Return', fields: ['dueBack', 'weight'], lists: ['artefact.loan'] },
    { name: 'Money', fields: ['insuredValue'] },
  ];
  const arranged = changed(GALLERIES, { kind: 'arrange', key: 'loan', sections });
  expect(typeOf(arranged, 'loan')!.sections).toEqual(sections);
  const fewer = changed(arranged, { kind: 'removeField', type: 'loan', key: 'weight' });
  expect(typeOf(fewer, 'loan')!.sections![0]!.fields).toEqual(['dueBack']);
  const arrange = (...of: (typeof sections)[number][]): ModelChange => ({
    kind: 'arrange',
    key: 'loan',
    sections: of,
  });
  expect(
    refusal(
      arrange({ name: 'A', fields: ['dueBack'], lists: [] }, { name: 'B', fields: ['dueBack'], lists: [] }),
    ),
  ).toBe('“dueBack” of “Loan” stands in two sections. Leave it in one.');
  expect(refusal(arrange({ name: 'A', fields: ['none'], lists: [] }))).toBe(
    '“Loan” has no field “none” for a section.',
  );
  expect(refusal(arrange({ name: '', fields: [], lists: [] }))).toMatch(/^A name has 1 to 80 characters/);
});

test('selections are added, changed and removed by their key; two of a type have different names', () => {
  const due = {
    ...{ key: 'due', name: 'Due', type: 'loan' },
    condition: {
      kind: 'presence',
      operator: 'isNotEmpty',
      operand: { kind: 'field', route: [], field: 'dueBack' },
    },
  } as const;
  const added = changed(GALLERIES, { kind: 'addSelection', selection: due });
  const renamed = changed(added, {
    kind: 'changeSelection',
    to: { ...due, name: 'Due some day', type: 'artefact' },
  });
  // The type that it is on never changes.
  expect(renamed.selections).toEqual([{ ...due, name: 'Due some day' }]);
  expect(changed(renamed, { kind: 'removeSelection', key: 'due' }).selections).toEqual([]);
  expect(refusal({ kind: 'removeSelection', key: 'due' })).toBe(
    'There is no selection “due”. Reload: it may be gone.',
  );
  expect(
    refusal(
      { kind: 'addSelection', selection: due },
      { kind: 'addSelection', selection: { ...due, key: 'other' } },
    ),
  ).toBe('Two selections of one type have the name “due”. Rename one.');
});

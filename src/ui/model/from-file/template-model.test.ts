import { changeModel } from '@/core/model';
import { type DraftedType, draftsOf, makingOf, openQuestions } from './template-model';

const KNOWN = { types: [], people: new Set<string>(), timeZone: 'UTC' };
const TENANCIES = {
  ...{ called: 'tenancies', headings: ['Reference', 'Plot', 'Was', 'Rent'] },
  rows: [
    ['North 1', 'P-1', 'P-2', '42.50'],
    ['North 2', 'P-2', 'P-3', '40'],
  ],
};
const PLOTS = {
  ...{ called: 'plots', headings: ['Number', 'Beside', 'Tenancy'] },
  rows: [
    ['P-1', '', 'North 1'],
    ['P-2', 'P-1', 'North 2'],
    ['P-3', 'P-2', ''],
  ],
};
const drafts = draftsOf([TENANCIES, PLOTS], KNOWN);
const withFirst = (to: Partial<DraftedType>): DraftedType[] =>
  drafts.map((draft, at) => (at === 0 ? { ...draft, ...to } : draft));

test('tables are called as their records are, and named by the text that every row has', () => {
  expect(drafts.map(({ name, plural, title }) => [name, plural, title])).toEqual([
    ['Tenancy', 'Tenancies', 'Reference'],
    ['Plot', 'Plots', 'Number'],
  ]);
  expect(openQuestions(drafts)).toEqual([]);
});

test('the changes that make them are sound, links to each other and to themselves too', () => {
  const { changes, made } = makingOf(drafts, []);
  expect(made.map(({ key }) => key)).toEqual(['tenancy', 'plot']);
  expect(changes.map((change) => change.kind)).toEqual(['addType', 'addType', 'addField', 'addField']);
  const done = changeModel({ types: [], lists: [], selections: [] }, changes);
  if (!done.ok) throw new Error(done.problems.map(({ message }) => message).join(' '));
  expect(
    done.definition.types.map(({ fields }) => fields.map(({ type, otherEnd }) => [type, otherEnd])),
  ).toEqual([
    [
      [{ kind: 'text' }, undefined],
      [{ kind: 'number', scale: 2 }, undefined],
      [{ kind: 'link', target: 'plot' }, 'Tenancies'],
      [{ kind: 'link', target: 'plot' }, 'Tenancies by was'],
    ],
    [
      [{ kind: 'text' }, undefined],
      [{ kind: 'link', target: 'plot' }, 'Plots'],
      [{ kind: 'link', target: 'tenancy' }, 'Plots'],
    ],
  ]);
  expect(made[0]!.columns).toContainEqual({ column: 'Was', field: 'was' });
});

test('what is linked to comes in before what links', () => {
  const apart = drafts.map((draft) => ({
    ...draft,
    columns: draft.columns.filter(({ proposed }) => proposed.heading !== 'Tenancy'),
  }));
  expect(makingOf(apart, []).made.map(({ draft }) => draft.called)).toEqual(['plots', 'tenancies']);
});

test('what is open is asked, by the table that it is of', () => {
  const asked = (of: readonly DraftedType[]) => openQuestions(of).map(({ message }) => message);
  expect(asked(withFirst({ name: ' ' }))).toEqual(['tenancies: Say what one of them is called.']);
  expect(asked(withFirst({ title: 'Rent' }))).toEqual([
    'tenancies: Choose the text by which records are named.',
  ]);
  expect(asked(withFirst({ isWanted: false }))).toEqual([
    'plots: Tenancy links to a table that is left out. Choose another kind for it.',
  ]);
  expect(asked(drafts.map((draft) => ({ ...draft, isWanted: false })))).toEqual([
    'Choose at least one of the tables.',
  ]);
});

import { ALL_RULES, galleries, INSURED_TOTAL, ruleOf } from '@/core/testing/galleries';
import { columnsFor } from './family/columns';
import { editsOf, stagedOf, stepsOf } from './steps/steps';

const model = galleries();
const edit = (id: string, field: string, value: string | null) =>
  ({ kind: 'edit', type: 'loan', id, field, value }) as const;

test('staged steps become one edit for each record; the last value of a field stands', () => {
  expect(
    editsOf([
      edit('1', 'stage', 'agreed'),
      edit('2', 'title', 'Pots'),
      edit('1', 'title', 'Robes'),
      edit('1', 'stage', null),
    ]),
  ).toEqual([
    { kind: 'edit', type: 'loan', id: '1', values: { stage: null, title: 'Robes' } },
    { kind: 'edit', type: 'loan', id: '2', values: { title: 'Pots' } },
  ]);
});

test('a record that is deleted isn’t edited as well, whatever came first', () => {
  const gone = { kind: 'delete', type: 'loan', id: '1' } as const;
  expect(editsOf([edit('1', 'stage', 'agreed'), gone])).toEqual([gone]);
  expect(editsOf([gone, edit('1', 'stage', 'agreed')])).toEqual([gone]);
});

test('steps are parted into saves; a save of nothing is none, and saves make the steps that they came from', () => {
  const save = { kind: 'save' } as const;
  const back = { kind: 'restore', type: 'loan', id: '1' } as const;
  const gone = { kind: 'delete', type: 'loan', id: '1' } as const;
  const made = { kind: 'create', type: 'loan', id: '2', values: { title: 'Pots' } } as const;
  const steps = [gone, made, save, back, edit('2', 'stage', 'agreed'), edit('2', 'title', null)];
  const staged = stagedOf(steps);
  expect(staged).toEqual({
    runs: [
      [gone, made],
      [back, { kind: 'edit', type: 'loan', id: '2', values: { stage: 'agreed', title: null } }],
    ],
    settings: [],
  });
  expect(stepsOf(staged)).toEqual(steps);
  expect(stagedOf([save, gone, save, save]).runs).toEqual([[gone]]);
  expect(stagedOf([])).toEqual({ runs: [], settings: [] });
});

test('another day or another person begins a save; a day alone is one, and they make the steps that they came from', () => {
  const gone = { kind: 'delete', type: 'loan', id: '1' } as const;
  const back = { kind: 'restore', type: 'loan', id: '1' } as const;
  const day = (on: string) => ({ kind: 'day', day: on }) as const;
  const ada = { kind: 'actor', person: 'ada' } as const;
  const steps = [gone, day('2027-05-01'), ada, back, day('2027-06-01')];
  const staged = stagedOf(steps);
  expect(staged).toEqual({
    runs: [[gone], [back], []],
    settings: [
      { run: 1, day: '2027-05-01', person: 'ada' },
      { run: 2, day: '2027-06-01' },
    ],
  });
  expect(stepsOf(staged)).toEqual(steps);
  // Two days one after the other are two; who acts is kept for the next save that does something.
  expect(stagedOf([day('2027-05-01'), day('2027-06-01')]).runs).toEqual([[], []]);
  expect(stagedOf([ada, gone])).toEqual({ runs: [[gone]], settings: [{ run: 0, person: 'ada' }] });
  expect(stagedOf([gone, ada])).toEqual({ runs: [[gone]], settings: [] });
});

test('the columns are the fields that rules read or write, without the link by which the records hang', () => {
  const keys = (rules: typeof ALL_RULES, type: string, hangsBy: string | null) =>
    columnsFor(model, rules, type, hangsBy).map(({ key }) => key);
  expect(keys(ALL_RULES, 'loan', 'exhibition')).toEqual([
    'lender',
    'stage',
    'insuredValue',
    'dueBack',
    'artefactCount',
  ]);
  expect(keys([ruleOf(INSURED_TOTAL, 1)], 'loan', 'exhibition')).toEqual([
    'stage',
    'insuredValue',
    'dueBack',
    'artefactCount',
  ]);
  expect(keys([], 'artefact', 'loan')).toEqual(['fragile', 'weight']);
});

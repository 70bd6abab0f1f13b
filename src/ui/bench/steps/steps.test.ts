import fc from 'fast-check';
import { editsOf, isSave, type Step, stagedOf, stepsOf } from './steps';

const ids = fc.constantFrom('1', '2', '3');
const of = { type: fc.constant('loan'), id: ids };
const step: fc.Arbitrary<Step> = fc.oneof(
  fc.record({
    ...of,
    kind: fc.constant('edit' as const),
    field: fc.constantFrom('a', 'b'),
    value: fc.constantFrom('x', 'y', null),
  }),
  fc.record({ ...of, kind: fc.constantFrom('delete' as const, 'restore' as const) }),
  fc.constant<Step>({ kind: 'save' }),
  fc.record({ kind: fc.constant('day' as const), day: fc.constantFrom('2027-03-02', '2027-03-03') }),
  fc.record({ kind: fc.constant('actor' as const), person: fc.constantFrom('ada', 'ben') }),
);

test('steps that were staged are the same saves when they are read back from a proof', () => {
  fc.assert(
    fc.property(fc.array(step, { maxLength: 12 }), (steps) => {
      const staged = stagedOf(steps);
      expect(stagedOf(stepsOf(staged))).toEqual(staged);
    }),
  );
});

test('each record has one edit at most in a save', () => {
  fc.assert(
    fc.property(fc.array(step, { maxLength: 12 }), (steps) => {
      const edits = editsOf(steps.filter((one) => !isSave(one)));
      expect(new Set(edits.map(({ id }) => id)).size).toBe(edits.length);
    }),
  );
});

test('a later value stands instead of an earlier one; what is made and deleted was never there', () => {
  const edit = (field: string, value: string): Step => ({
    kind: 'edit',
    type: 'loan',
    id: '1',
    field,
    value,
  });
  expect(editsOf([edit('a', 'x'), edit('b', 'y'), edit('a', 'z')])).toEqual([
    { kind: 'edit', type: 'loan', id: '1', values: { a: 'z', b: 'y' } },
  ]);
  const made: Step = { kind: 'create', type: 'loan', id: '1', values: { a: 'x' } };
  expect(editsOf([made, edit('a', 'z')])).toEqual([
    { kind: 'create', type: 'loan', id: '1', values: { a: 'z' } },
  ]);
  expect(editsOf([made, { kind: 'delete', type: 'loan', id: '1' }])).toEqual([]);
  expect(editsOf([edit('a', 'x'), { kind: 'delete', type: 'loan', id: '1' }, edit('a', 'y')])).toEqual([
    { kind: 'delete', type: 'loan', id: '1' },
  ]);
});

test('a day is a save of its own even where nothing is edited; a person isn’t', () => {
  const day = (text: string): Step => ({ kind: 'day', day: text });
  expect(stagedOf([day('2027-03-02'), day('2027-03-03')])).toEqual({
    runs: [[], []],
    settings: [
      { run: 0, day: '2027-03-02' },
      { run: 1, day: '2027-03-03' },
    ],
  });
  expect(stagedOf([{ kind: 'save' }, { kind: 'actor', person: 'ada' }]).runs).toEqual([]);
});

test('a record that is restored and then edited is restored by one save and edited by the next: nothing is lost', () => {
  const restore: Step = { kind: 'restore', type: 'loan', id: '1' };
  const edit: Step = { kind: 'edit', type: 'loan', id: '1', field: 'a', value: 'x' };
  const other: Step = { kind: 'edit', type: 'loan', id: '2', field: 'a', value: 'y' };
  expect(stagedOf([restore, other, edit]).runs).toEqual([
    [
      { kind: 'restore', type: 'loan', id: '1' },
      { kind: 'edit', type: 'loan', id: '2', values: { a: 'y' } },
    ],
    [{ kind: 'edit', type: 'loan', id: '1', values: { a: 'x' } }],
  ]);
});

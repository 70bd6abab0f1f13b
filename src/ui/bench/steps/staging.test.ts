import { beginStaging, redoStaging, restage, undoStaging } from './staging';
import type { Step } from './steps';

const step = (id: string): Step => ({ kind: 'delete', type: 'loan', id });
const ids = ({ steps }: { readonly steps: readonly Step[] }) =>
  steps.map((one) => ('id' in one ? one.id : one.kind)).join(' ');

test('what is undone can be done again, until something else is staged', () => {
  let staging = beginStaging([]);
  for (const id of ['a', 'b']) staging = restage(staging, [...staging.steps, step(id)]);
  const moved = restage(staging, [step('b'), step('a')]);
  expect(ids(undoStaging(moved))).toBe('a b');
  expect(ids(undoStaging(undoStaging(moved)))).toBe('a');
  expect(ids(redoStaging(redoStaging(undoStaging(undoStaging(moved)))))).toBe('b a');
  const other = restage(undoStaging(moved), [step('c')]);
  expect(redoStaging(other)).toBe(other);
  expect(ids(undoStaging(other))).toBe('a b');
});

test('of a proof that was opened its steps are undone one by one; with nothing left nothing happens', () => {
  const opened = beginStaging([step('a'), step('b')]);
  const one = undoStaging(opened);
  expect(ids(one)).toBe('a');
  const none = undoStaging(one);
  expect(ids(none)).toBe('');
  expect(undoStaging(none)).toBe(none);
  expect(ids(redoStaging(redoStaging(none)))).toBe('a b');
});

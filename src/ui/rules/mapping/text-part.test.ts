import { CASES_MODEL } from '@/core/testing/feel-cases';
import { touring } from '@/core/testing/touring';
import { valuesInText } from './text-part';

test('names of what has words of its own are offered, up its links too, and no links', () => {
  const names = valuesInText(CASES_MODEL, 'thing');
  expect(names).toContainEqual({ value: 'size', label: 'Size' });
  expect(names).toContainEqual({ value: 'at.volume', label: 'At’s Volume' });
  expect(names.map(({ value }) => value)).not.toContain('at');
});

test('those of the record across which it goes stand after them, unless the record has something called so', () => {
  const model = touring();
  const names = valuesInText(model, 'exhibition', 'assignment');
  expect(names).toContainEqual({ value: 'assignment.note', label: 'Assignment’s Note' });
  expect(names.at(0)).toEqual({ value: 'title', label: 'Title' });
  expect(valuesInText(model, 'exhibition').map(({ value }) => value)).not.toContain('assignment.note');
});

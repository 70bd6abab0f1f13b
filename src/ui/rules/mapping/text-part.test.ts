import { CASES_MODEL } from '@/core/testing/feel-cases';
import { valuesInText } from './text-part';

test('names of what has words of its own are offered, up its links too, and no links', () => {
  const names = valuesInText(CASES_MODEL, 'thing');
  expect(names).toContainEqual({ value: 'size', label: 'Size' });
  expect(names).toContainEqual({ value: 'at.volume', label: 'At’s Volume' });
  expect(names.map(({ value }) => value)).not.toContain('at');
});

import { pastedNames, withPasted } from './option-rows';

const options = [
  { key: 'option1', name: 'Red' },
  { key: 'option2', name: '' },
];

test('a copied list becomes options, each once; those that are there stay as they are', () => {
  expect(pastedNames('Red\r\n Green \n\nBlue\tGreen')).toEqual(['Red', 'Green', 'Blue']);
  const pasted = withPasted(options, 1, ['red', 'Green', 'Blue']);
  expect(pasted.map(({ name }) => name)).toEqual(['Red', 'Green', 'Blue']);
  expect(new Set(pasted.map(({ key }) => key)).size).toBe(3);
});

test('beside one that has a name they stand after it', () => {
  expect(withPasted(options, 0, ['Green']).map(({ name }) => name)).toEqual(['Red', 'Green', '']);
});

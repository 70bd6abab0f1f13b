import { canonical, sameData } from './canonical';

test('the same thing is the same text, whatever the order of its keys', () => {
  expect(canonical({ b: [2, { d: null, c: 'x' }], a: undefined, e: true })).toBe(
    '{"b":[2,{"c":"x","d":null}],"e":true}',
  );
});

test('data is the same where it says the same: by its keys and values, and the order of its lists', () => {
  const stored = {
    kind: 'compare',
    left: { route: [], field: 'fee' },
    right: { value: '5', kind: 'constant' },
  };
  const written = {
    left: { field: 'fee', route: [] },
    right: { kind: 'constant', value: '5' },
    kind: 'compare',
  };
  expect(sameData(stored, written)).toBe(true);
  expect(sameData(stored, { ...written, note: undefined })).toBe(true);
  expect(sameData(stored, { ...written, note: null })).toBe(false);
  expect(sameData(['a', 'b'], ['b', 'a'])).toBe(false);
  expect(sameData(null, undefined)).toBe(false);
  expect(sameData(undefined, undefined)).toBe(true);
});

import { byKind } from './by-kind';

type Shape =
  { readonly kind: 'square'; readonly side: number } | { readonly kind: 'line'; readonly to: number };

const sizeTimes = byKind<Shape, [times: number], number>({
  square: ({ side }, times) => side * side * times,
  line: ({ to }, times) => to * times,
});

test('each member goes to the entry of its kind, with what else was given', () => {
  expect(sizeTimes({ kind: 'square', side: 3 }, 2)).toBe(18);
  expect(sizeTimes({ kind: 'line', to: 3 }, 2)).toBe(6);
});

test('a kind that isn’t in the table is refused, also one that every object has', () => {
  expect(() => sizeTimes({ kind: 'circle' } as never, 1)).toThrow('Unexpected kind: "circle"');
  expect(() => sizeTimes({ kind: 'toString' } as never, 1)).toThrow('Unexpected kind: "toString"');
});

test('a table without an entry doesn’t compile', () => {
  // @ts-expect-error: the line is missing
  const incomplete = byKind<Shape, [], number>({ square: ({ side }) => side });
  expect(() => incomplete({ kind: 'line', to: 1 })).toThrow(TypeError);
});

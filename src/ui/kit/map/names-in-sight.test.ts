import { namesInSight, type NamedBox } from './names-in-sight';

const box = (id: string, x: number, weight = 0): NamedBox => ({
  ...{ id, name: `Type ${id}`, x, y: 0, width: 100, height: 50, weight },
});
const ids = (boxes: readonly NamedBox[], zoom: number) => namesInSight(boxes, zoom).map(({ id }) => id);

test('names that would cover each other give way to the weightier, and come back nearer by', () => {
  const boxes = [box('a', 0), box('b', 120, 2), box('c', 240), box('d', 2_000)];
  expect(ids(boxes, 1)).toEqual(['b', 'a', 'c', 'd']);
  expect(ids(boxes, 0.2)).toEqual(['b', 'd']);
});

test('a name stands in the middle of its box', () => {
  expect(namesInSight([box('a', 10)], 0.1)).toEqual([{ id: 'a', name: 'Type a', x: 60, y: 25 }]);
});

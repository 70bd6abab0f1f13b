/** @jest-environment node */
import { CASES_MODEL } from '@/core/testing/feel-cases';
import { galleries } from '@/core/testing/galleries';
import { layOut, neighbours } from './map-layout';

const { types } = galleries();

test('a type stands with what it links to and what links to it, and the links among them', () => {
  const near = neighbours(types, 'loan').map(({ key }) => key);
  expect(near).toContain('loan');
  expect(near).toContain('exhibition');
  const map = layOut(types, { near: 'loan', withFields: false });
  expect(map.boxes.map(({ key }) => key)).toEqual(near);
  for (const { type, parent } of map.lines)
    expect([near.includes(type), near.includes(parent)]).toEqual([true, true]);
  // How many fields it has is told whatever is shown.
  expect(map.boxes.find(({ key }) => key === 'loan')!.fields).toBe(
    types.find(({ key }) => key === 'loan')!.fields.length,
  );
});

test('with its fields a box is as high as they need, and none covers another', () => {
  const { boxes } = layOut(CASES_MODEL.types, { near: null, withFields: true });
  const thing = boxes.find(({ key }) => key === 'thing')!;
  expect(thing.listed).toHaveLength(14);
  expect(thing.listed[0]).toEqual({ name: 'Title', kind: 'text' });
  for (const a of boxes)
    for (const b of boxes)
      if (a !== b)
        expect(
          a.x + a.width <= b.x || b.x + b.width <= a.x || a.y + a.height <= b.y || b.y + b.height <= a.y,
        ).toBe(true);
});

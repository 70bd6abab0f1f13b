/** @jest-environment node */
import type { Feeding } from '@/core/plan';
import { layOutRules, type RuleBox } from './rules-map-layout';

const feeding = (id: string, place: number, ...feeds: string[]): Feeding => ({
  ...{ id, place, feeds, isInCircle: false },
});

test('what feeds stands to the left of what it feeds; no two boxes overlap, and those alone stand beneath', () => {
  const alone = Array.from({ length: 9 }, (_, at) => feeding(`alone${at}`, at + 5));
  const { boxes, lines } = layOutRules([
    feeding('a', 1, 'b', 'c'),
    feeding('b', 2, 'c'),
    feeding('c', 3),
    ...alone,
  ]);
  const at = (id: string) => boxes.find((box) => box.id === id)!;
  expect(at('a').x).toBeLessThan(at('b').x);
  expect(at('b').x).toBeLessThan(at('c').x);
  expect(lines.map(({ id }) => id).sort()).toEqual(['a b', 'a c', 'b c']);
  for (const { id } of alone) expect(at(id).y).toBeGreaterThan(at('a').y);
  const overlap = (a: RuleBox, b: RuleBox) =>
    a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;
  for (const [index, box] of boxes.entries())
    for (const other of boxes.slice(index + 1)) expect(overlap(box, other)).toBe(false);
});

test('with no rules there is nothing to draw', () => {
  expect(layOutRules([])).toEqual({ boxes: [], lines: [] });
});

/** @jest-environment node */
import type { Feeding } from '@/core/plan';
import { feedingNear } from './feeding-near';
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

test('a rule stands with all that feeds it and all that it feeds, however far, and with nothing beside', () => {
  const all = [
    feeding('a', 1, 'b', 'x'),
    feeding('b', 2, 'c'),
    feeding('c', 3, 'd'),
    feeding('d', 4),
    feeding('x', 5),
    feeding('y', 6, 'd'),
  ];
  expect(feedingNear(all, 'c').map(({ id, feeds }) => [id, feeds])).toEqual([
    ['a', ['b']],
    ['b', ['c']],
    ['c', ['d']],
    ['d', []],
  ]);
  // A circle ends too.
  expect(feedingNear([feeding('p', 1, 'q'), feeding('q', 2, 'p')], 'p')).toHaveLength(2);
});

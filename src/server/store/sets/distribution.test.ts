import { Decimal } from '@/core/values';
import fc from 'fast-check';
import { roundEdges } from './distribution';

const edges = (least: string, most: string, steps = 8) => {
  const { first, step } = roundEdges(new Decimal(least), new Decimal(most), steps);
  return [first.toFixed(), step.toFixed()];
};

test('edges are round, and begin at or below the least', () => {
  expect(edges('0', '100')).toEqual(['0', '20']);
  expect(edges('-37.5', '412')).toEqual(['-100', '100']);
  expect(edges('0.02', '0.09')).toEqual(['0.02', '0.01']);
  expect(edges('7', '7')).toEqual(['0', '10']);
  expect(edges('0', '0')).toEqual(['0', '1']);
});

test('however far numbers lie apart, all lie between few edges', () => {
  const number = fc
    .tuple(fc.bigInt({ min: -(10n ** 18n), max: 10n ** 18n }), fc.nat(6))
    .map(([whole, places]) => new Decimal(`${whole}e-${places}`));
  fc.assert(
    fc.property(number, number, (a, b) => {
      const [least, most] = a.lte(b) ? [a, b] : [b, a];
      const { first, step } = roundEdges(least, most, 8);
      const bars = most.minus(first).div(step).floor().plus(1).toNumber();
      expect(first.lte(least)).toBe(true);
      expect(bars).toBeGreaterThan(0);
      expect(bars).toBeLessThanOrEqual(10);
    }),
  );
});

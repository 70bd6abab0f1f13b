import type { Row } from '@/core/engine';
import { Decimal, type Value, valueAt } from '@/core/values';
import { gbp, rowOf } from './made';
import { Random } from '@/core/random';
import { Ids } from './ids';

/** What exhibitions are built from: bought for so much, in pence, or made with so much labour. */
const FITTINGS: readonly (readonly [name: string, unitCost: number | null, ownLabour: number | null])[] = [
  ['Aluminium bar', 210, null],
  ['Panel, painted', 1825, null],
  ['Hinge', 95, null],
  ['Glass pane', 6400, null],
  ['Light strip', 2250, null],
  ['Frame', null, 500],
  ['Partition wall', null, 4000],
  ['Display case', null, 7500],
  ['Corner of two walls', null, 1500],
];

/** The whole, its parts and how many of each. */
const PARTS: readonly (readonly [whole: string, part: string, pieces: number])[] = [
  ['Frame', 'Aluminium bar', 4],
  ['Partition wall', 'Panel, painted', 6],
  ['Partition wall', 'Frame', 2],
  ['Display case', 'Frame', 3],
  ['Display case', 'Glass pane', 5],
  ['Display case', 'Hinge', 4],
  ['Display case', 'Light strip', 2],
  ['Corner of two walls', 'Partition wall', 2],
  ['Corner of two walls', 'Hinge', 6],
];

export function makeFittings(rows: Row[]): void {
  const ids = new Ids(new Random(2207));
  const add = (type: string, values: Record<string, Value>): string => {
    const id = ids.next();
    rows.push(rowOf(type, id, values));
    return id;
  };
  const amount = (pence: number | null): Value => (pence === null ? null : gbp(pence));
  const made = new Map(
    FITTINGS.map(([name, unitCost, ownLabour]) => [
      name,
      add('fitting', { name, unitCost: amount(unitCost), ownLabour: amount(ownLabour) }),
    ]),
  );
  for (const [whole, part, pieces] of PARTS)
    add('fittingPart', {
      ...{ title: `${pieces} × ${part} in ${whole}`, whole: valueAt(made, whole), part: valueAt(made, part) },
      pieces: new Decimal(pieces),
    });
}

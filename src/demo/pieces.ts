import type { Row } from '@/core/engine';
import { Decimal, type Value } from '@/core/values';
import { addDays, rowOf } from './made';
import { Random } from '@/core/random';
import { Ids } from './ids';

/** Materials, and whether they are protected. */
const MATERIALS: readonly (readonly [string, boolean])[] = [
  ['Silk', false],
  ['Wool', false],
  ['Linen', false],
  ['Gold thread', false],
  ['Silver', false],
  ['Bronze', false],
  ['Stoneware', false],
  ['Walnut', false],
  ['Rag paper', false],
  ['Elephant ivory', true],
  ['Tortoiseshell', true],
  ['Rosewood', true],
];

/** What pieces are made of, how they were found to handle, and whether they are packed. */
export class Pieces {
  readonly #random = new Random(1907);
  readonly #ids = new Ids(this.#random);
  readonly #materials: { readonly row: Row; readonly isProtected: boolean }[] = [];

  constructor(private readonly rows: Row[]) {}

  make(): void {
    for (const [name, isProtected] of MATERIALS)
      this.#materials.push({ row: this.add('material', { name, protected: isProtected }), isProtected });
    const packed = new Map(
      this.rows.filter(({ type }) => type === 'crate').map(({ id, values }) => [id, values.sealed === true]),
    );
    for (const [at, row] of this.rows.entries()) {
      if (row.type !== 'artefact') continue;
      const { crate, handlingGrade, needsPermit } = row.values;
      this.useMaterials(row, needsPermit === true);
      if (handlingGrade) this.report(row, handlingGrade as Decimal);
      const isPacked = packed.get(crate as string) === true || this.#random.chance(0.5);
      const kept = { handlingGrade: null, needsPermit: null, inspectedOn: null, inspectedBy: null };
      const values = { ...row.values, ...kept, packed: isPacked };
      this.rows[at] = { ...row, values };
    }
  }

  private add(type: string, values: Record<string, Value>): Row {
    const row = rowOf(type, this.#ids.next(), values);
    this.rows.push(row);
    return row;
  }

  private useMaterials({ id, values }: Row, isProtected: boolean): void {
    const plain = this.#random.some(
      this.#materials.filter((one) => !one.isProtected),
      this.#random.whole(1, 2),
    );
    const rare = isProtected ? [this.#random.pick(this.#materials.filter((one) => one.isProtected))] : [];
    const used = [...plain, ...rare];
    used.forEach(({ row }, at) =>
      this.add('materialUse', {
        ...{
          title: `${row.values.name as string} in ${values.title as string}`,
          artefact: id,
          material: row.id,
        },
        share: new Decimal(at === 0 ? 100 - 10 * (used.length - 1) : 10),
      }),
    );
  }

  /** One to three reports that average to the grade. */
  private report({ id, values }: Row, grade: Decimal): void {
    const number = this.#random.whole(1, 3);
    for (let at = 0; at < number; at += 1) {
      const step = number === 3 && at < 2 && grade.greaterThan(1) && grade.lessThan(6) ? at * 2 - 1 : 0;
      this.add('handlingReport', {
        ...{ title: `${values.title as string}, handling ${at + 1}`, artefact: id, grade: grade.plus(step) },
        ...{ day: addDays('2026-09-30', -this.#random.whole(1, 700)), remark: null },
      });
    }
  }
}

import { cases } from '@/core/testing/cases';
import { CURRENCIES, Decimal, displayValue, PLAIN_FORM, type Value, type ValueType } from '@/core/values';
import fc from 'fast-check';
import { disconnect } from '@/server/database/connection';
import { inSnapshot } from '@/server/store/session/transactions';
import { toColumn } from '@/server/store/sql/columns';
import { Binds, bindType, columnType, run } from '@/server/store/sql/sql';
import { wordsSql } from './words-sql';

afterAll(disconnect);

const options = ['wood', 'ivory'].map((key) => ({ key, name: `Made of ${key}` }));
const digits = (places: number) =>
  fc.bigInt(-(10n ** 20n), 10n ** 20n).map((whole) => new Decimal(`${whole}e-${places}`));
const day = fc
  .date({ min: new Date('0001-01-01'), max: new Date('9999-12-31'), noInvalidDate: true })
  .map((date) => date.toISOString());
const kept = <T extends Value>(type: ValueType, values: fc.Arbitrary<T>) =>
  values.map((value) => ({ type, value: value as Value }));

const anyValue = fc.oneof(
  kept({ kind: 'number', scale: 3 }, digits(3)),
  kept({ kind: 'number', scale: 0, unit: 'm³' } as ValueType, digits(0)),
  kept(
    { kind: 'money', currency: 'JPY' },
    digits(0).map((amount) => ({ amount, currency: 'JPY' })),
  ),
  kept({ kind: 'anyMoney' }, fc.record({ amount: digits(2), currency: fc.constantFrom(...CURRENCIES) })),
  kept(
    { kind: 'date' },
    day.map((of) => of.slice(0, 10)),
  ),
  kept({ kind: 'dateTime' }, day),
  kept({ kind: 'yesNo' }, fc.boolean()),
  kept({ kind: 'choice', options }, fc.constantFrom('wood', 'ivory', 'gone')),
  kept({ kind: 'choices', options }, fc.constantFrom(['wood'], ['ivory', 'wood'])),
  kept(
    { kind: 'rating', lowest: 1, highest: 9 },
    fc.integer({ min: 1, max: 9 }).map((of) => new Decimal(of)),
  ),
);

test('a value of any kind has the same words in SQL as on the screen', async () => {
  await inSnapshot((transaction) =>
    fc.assert(
      fc.asyncProperty(fc.array(anyValue, { minLength: 1, maxLength: 20 }), async (values) => {
        const binds = new Binds();
        const told = values.map(({ type, value }) => {
          const bound = binds.add(toColumn(type, value), bindType(type));
          return wordsSql(type, `(${bound})::${columnType(type, 'scale' in type ? type.scale : 2)}`, binds);
        });
        const [row] = await run<{ told: string[] }>(
          transaction,
          `SELECT ARRAY[${told.join(', ')}] AS told`,
          binds.values,
        );
        expect(row?.told).toEqual(
          values.map(({ type, value }) => displayValue(type, value, undefined, PLAIN_FORM)),
        );
      }),
      { numRuns: cases(40) },
    ),
  );
});

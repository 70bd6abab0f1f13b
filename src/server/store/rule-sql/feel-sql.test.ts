import { Decimal } from '@/core/values';
import { typeValue } from '@/core/expression';
import { workedInCore } from '@/core/testing/feel-worked';
import { cases } from '@/core/testing/cases';
import fc from 'fast-check';
import { CASE_ID, CASES_MODEL, CASES_ROWS, FEEL_CASES, printValue } from '@/core/testing/feel-cases';
import { database, disconnect } from '@/server/database/connection';
import { type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { errorSql } from './error-sql';
import { expressionSql } from './expression-sql';
import { RouteJoins } from './route-joins';
import { Binds, readColumn, run, tableOf } from '@/server/store/sql/sql';
import { fromColumn } from '@/server/store/sql/columns';

let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await testWorkspace({ model: CASES_MODEL, rows: CASES_ROWS, rules: [] });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

/** What FEEL text comes to in SQL on the crate. */
async function worked(text: string): Promise<string> {
  const schema = await workspace.load();
  const typed = typeValue(schema.model, 'thing', { kind: 'feel', text });
  if (!typed.ok) return `? ${typed.problem.message}`;
  const binds = new Binds();
  const joins = new RouteJoins({ schema, from: 'thing', alias: 'p', binds, isKept: () => false });
  const value = expressionSql(typed.value, joins, binds);
  const error = errorSql(typed.value, joins, binds) ?? 'NULL';
  const { type } = typed.value;
  const [row] = await database().transaction((transaction) =>
    run<{ value: unknown; error: string | null }>(
      transaction,
      `SELECT ${readColumn(type, `(${value})`)} AS value, ${error} AS error
        FROM ${tableOf(schema.schema, 'thing')} p ${joins.sql()} WHERE p.id = ${binds.add(CASE_ID, 'uuid')}`,
      binds.values,
    ),
  );
  return row!.error ? `!${row!.error}` : printValue(fromColumn(type, row!.value));
}

test.each(FEEL_CASES)('%s is %s in SQL too', async (text, comesTo) => {
  expect(await worked(text)).toBe(comesTo);
});

const quoted = (text: string) => `"${text.replace(/[\\"]/g, '\\$&')}"`;
const someText = fc
  .string({ unit: fc.constantFrom(...'aÄßıİΣς\u00a0 \t.,-+0129é😀ǆ'), maxLength: 8 })
  .filter((text) => text !== '')
  .map(quoted);
const someDate = fc
  .date({ min: new Date('0001-01-01'), max: new Date('9999-12-31'), noInvalidDate: true })
  .map((date) => `date("${date.toISOString().slice(-24).slice(0, 10)}")`);
const someNumber = fc
  .tuple(fc.bigInt({ min: -(10n ** 12n), max: 10n ** 12n }), fc.nat(12))
  .map(([digits, places]) => String(new Decimal(String(digits)).div(new Decimal(10).pow(places)).toFixed()));
const halves = fc
  .tuple(fc.integer({ min: -400, max: 400 }), fc.nat(2))
  .map(([of, places]) => `${of / 2}, ${places}`);
const call = (name: string, ...of: fc.Arbitrary<string>[]) =>
  fc.tuple(...of).map((given) => `${name}(${given.join(', ')})`);

/** Calls of functions that are worked out by other means in each of the two. */
const someCall = fc.oneof(
  ...['upper case', 'lower case', 'trim', 'number'].map((name) => call(name, someText)),
  call('number', someText, fc.constantFrom('" "', '","', '"."', '"-"'), fc.constantFrom('"."', '","')),
  ...['day of week', 'month of year', 'day of year', 'week of year'].map((name) => call(name, someDate)),
  call('years and months duration', someDate, someDate),
  call('sqrt', someNumber),
  ...['round half down', 'decimal'].flatMap((name) => [
    call(name, halves),
    call(name, someNumber, fc.constantFrom('0', '1', '5')),
  ]),
  ...['odd', 'even'].map((name) => call(name, fc.integer().map(String))),
);

test('whatever functions are given, they come to the same in SQL', async () => {
  await fc.assert(
    fc.asyncProperty(someCall, async (text) => expect(await worked(text)).toBe(workedInCore(text))),
    { numRuns: cases(400) },
  );
});

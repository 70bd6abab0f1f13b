import { typeValue } from '@/core/expression';
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

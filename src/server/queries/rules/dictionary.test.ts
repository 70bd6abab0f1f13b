import ExcelJS from 'exceljs';
import { galleries, INSURED_TOTAL, ruleOf } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { dictionaryBook, readDictionary } from './dictionary';

let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await testWorkspace({
    ...{ model: galleries(), rows: [], rules: [ruleOf(INSURED_TOTAL, 1, '=Total')] },
  });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

test('as a workbook it has a sheet of fields, of selections and of rules, all of it text', async () => {
  const book = new ExcelJS.Workbook();
  const bytes = await dictionaryBook(await readDictionary(await workspace.load()));
  await book.xlsx.load(new Uint8Array(bytes).buffer);
  expect(book.worksheets.map(({ name }) => name)).toEqual(['Fields', 'Selections', 'Rules']);
  const rowsOf = (name: string) =>
    book
      .getWorksheet(name)!
      .getSheetValues()
      .slice(1)
      .map((row) => (row as unknown[]).slice(1));
  expect(rowsOf('Fields')[0]).toEqual([
    ...['Type', 'Field', 'Kind', 'Required', 'Unique', 'Options', 'Written by', 'Help'],
  ]);
  expect(rowsOf('Fields')).toContainEqual([
    ...['Exhibition', 'Insured total', 'money, GBP', '', '', '', '=Total', ''],
  ]);
  const [, rule] = rowsOf('Rules');
  // A name that looks like a formula stays a name.
  expect(rule!.slice(0, 4)).toEqual(['Exhibition', '=Total', 'roll-up', 'live']);
  expect(rule![4]).toMatch(/^On every Exhibition, keep Insured total/);
});

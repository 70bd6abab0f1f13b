import { parse } from 'csv-parse/sync';
import fc from 'fast-check';
import { cases } from '@/core/testing/cases';
import { type CsvRecord, csvRecords } from './csv-records';

/** The rows of a text that comes in pieces of a few characters. */
async function read(text: string, { size = 3, separator = ',', most = 200 } = {}): Promise<CsvRecord[]> {
  async function* pieces(): AsyncGenerator<string> {
    for (let at = 0; at < text.length; at += size) yield text.slice(at, at + size);
  }
  const found: CsvRecord[] = [];
  for await (const record of csvRecords(pieces(), { separator, most, parse })) found.push(record);
  return found;
}
const cellsOf = (records: readonly CsvRecord[]) =>
  records.map((record) => ('cells' in record ? record.cells : `${record.line}: ${record.flaw}`));

test('line ends of every kind, blank lines and the mark at the beginning are read', async () => {
  expect(await read('\ufeffa,b\r\n1,2\n\n3,"4\r\n5"\r6,7')).toEqual([
    { line: 1, cells: ['a', 'b'] },
    { line: 2, cells: ['1', '2'] },
    { line: 5, cells: ['3', '4\r\n5'] },
    { line: 6, cells: ['6', '7'] },
  ]);
  expect(await read('')).toEqual([]);
});

test('a quote that stands where it shouldn’t refuses the line on which its row begins, and no other', async () => {
  const stray = 'A quote is opened on this line and not closed where the value ends. Correct it.';
  expect(cellsOf(await read('a,b\n"1,2\n3,4\n5,6'))).toEqual([
    ['a', 'b'],
    `2: ${stray}`,
    ['3', '4'],
    ['5', '6'],
  ]);
  expect(cellsOf(await read('a,b\n5" pipe,2\n3,4\n6" pipe,6\n7,8'))).toEqual([
    ['a', 'b'],
    `2: ${stray}`,
    ['3', '4'],
    `4: ${stray}`,
    ['7', '8'],
  ]);
  expect(cellsOf(await read('a,b\n5" to 6",2\n3,4'))).toEqual([
    ['a', 'b'],
    '2: A quote stands within a value that doesn’t begin with one. Correct it.',
    ['3', '4'],
  ]);
  // It can be read as a row, and doesn't fit the heading.
  expect(cellsOf(await read('a,b,c\n"1,2,3\n4,5,6"\n7,8,9'))).toEqual([
    ['a', 'b', 'c'],
    `2: ${stray}`,
    `3: ${stray}`,
    ['7', '8', '9'],
  ]);
});

test('a row of more characters than one may have is refused; a line that never ends refuses the file', async () => {
  const long = `"${'x\n'.repeat(150)}",1`;
  const [heading, flaw] = await read(`a,b\n${long}\n2,3`, { most: 200 });
  expect([heading, flaw]).toEqual([
    { line: 1, cells: ['a', 'b'] },
    { line: 2, flaw: expect.stringMatching(/^A quote is opened on this line/) },
  ]);
  await expect(read('x'.repeat(500))).rejects.toThrow(/Line 1 has more than 200 characters/);
});

test('whatever is written by RFC 4180 is read as it was, in pieces of any size', async () => {
  const cell = fc.string({ unit: fc.constantFrom('a', '"', ',', '\n', '\r\n', ' ', 'é', ';'), maxLength: 8 });
  const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.array(cell, { minLength: 2, maxLength: 2 }), { minLength: 1, maxLength: 12 }),
      fc.integer({ min: 1, max: 9 }),
      async (rows, size) => {
        const text = rows.map((row) => row.map(quoted).join(',')).join('\n');
        expect(cellsOf(await read(text, { size, most: 10_000 }))).toEqual(rows);
      },
    ),
    { numRuns: cases(100) },
  );
});

import { csvText, harmless } from './export-records';

test.each([
  ['=1+1', "'=1+1"],
  ['  =1+1', "'  =1+1"],
  ['＝HYPERLINK("x")', '\'＝HYPERLINK("x")'],
  ['\u3000＠SUM(1)', "'\u3000＠SUM(1)"],
  ['Blue; =cmd|x', "Blue;' =cmd|x"],
  ['a\n=b', "a\n'=b"],
  ['a\t+b', "a\t'+b"],
  ['-1+2', "'-1+2"],
  ['－1+2', "'－1+2"],
  ['-12.50', '-12.50'],
  ['a=b', 'a=b'],
  ['x; y', 'x; y'],
  ['', ''],
])('a cell %j is written as %j', (cell, written) => {
  expect(harmless(cell)).toBe(written);
});

test('rows are written as CSV with what a spreadsheet would take for a formula made text', () => {
  expect(
    csvText([
      ['Name', 'Number'],
      ['=1', -3],
    ]),
  ).toBe("\ufeffName,Number\r\n'=1,-3\r\n");
});

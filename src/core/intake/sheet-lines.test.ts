import { cellValue, sheetLines } from './sheet-lines';

test('a cell is what people see in it', () => {
  expect(cellValue(0.1 + 0.2)).toBe(0.3);
  expect(cellValue(new Date('2026-02-14T00:00:00Z'))).toBe('2026-02-14');
  expect(cellValue(new Date('2026-02-14T09:30:00Z'))).toBe('2026-02-14 09:30:00');
  expect(cellValue({ formula: 'A1*2', result: 12 })).toBe(12);
  expect(cellValue({ richText: [{ text: 'Gar' }, { text: 'den' }] })).toBe('Garden');
  expect(cellValue({ text: 'Plot 4', hyperlink: 'https://example.org' })).toBe('Plot 4');
  expect([true, false].map(cellValue)).toEqual(['yes', 'no']);
  expect([null, undefined, ' ', { error: '#N/A' }, new Date(NaN)].map(cellValue)).toEqual([
    null,
    null,
    null,
    null,
    null,
  ]);
});

test('each row stands on the line that has its number, whatever is empty above and between', () => {
  const { lines, rows } = sheetLines('Plots', [
    [null],
    ['Plot', 'Rent', 'Rent', null, null],
    [1, 42.5, null, 'x'],
    [],
    [2, null, 3, null],
  ]);
  expect(rows).toBe(2);
  expect(lines.split('\n')).toEqual([
    '',
    '',
    '{"Plot":1,"Rent":42.5,"Rent (2)":null,"Column 4":"x"}',
    '',
    '{"Plot":2,"Rent":null,"Rent (2)":3,"Column 4":null}',
  ]);
  expect(sheetLines('Empty', [[], [null]])).toEqual({ name: 'Empty', lines: '', rows: 0 });
});

/** @jest-environment node */
import ExcelJS from 'exceljs';
import { sheetsIn } from './workbook';

test('every sheet with rows comes as lines that have its row numbers', async () => {
  const workbook = new ExcelJS.Workbook();
  const plots = workbook.addWorksheet('Plots');
  plots.addRow(['Number', 'Let on', 'Rent']);
  plots.addRow(['P-1', new Date('2026-02-14T00:00:00Z'), 42.5]);
  plots.getCell('A4').value = { richText: [{ text: 'P-' }, { text: '3' }] };
  plots.getCell('C4').value = { formula: 'C2*2', result: 85 };
  workbook.addWorksheet('Notes');
  const bytes = (await workbook.xlsx.writeBuffer()) as ArrayBuffer;
  expect(await sheetsIn(bytes)).toEqual([
    {
      ...{ name: 'Plots', rows: 2 },
      lines: [
        '',
        '{"Number":"P-1","Let on":"2026-02-14","Rent":42.5}',
        '',
        '{"Number":"P-3","Let on":null,"Rent":85}',
      ].join('\n'),
    },
  ]);
});

test('what isn’t a workbook is said, with what to do', async () => {
  const bytes = new TextEncoder().encode('PK\u0003\u0004 nothing').buffer as ArrayBuffer;
  await expect(sheetsIn(bytes)).rejects.toThrow(/can’t be read as a workbook .* save it as XLSX or CSV\.$/);
});

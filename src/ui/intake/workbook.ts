import { sheetLines, type SheetLines } from '@/core/intake';
import ExcelJS from 'exceljs';

/** The sheets of a workbook (XLSX) that hold rows, in their order; hidden ones too. Refuses (throws) what isn't one. */
export async function sheetsIn(bytes: ArrayBuffer): Promise<SheetLines[]> {
  const workbook = new ExcelJS.Workbook();
  try {
    await workbook.xlsx.load(bytes);
  } catch (error) {
    throw new Error(
      `This can’t be read as a workbook (${(error as Error).message}). Open it in a spreadsheet and save it as XLSX or CSV.`,
      { cause: error },
    );
  }
  return workbook.worksheets
    .map((sheet) => {
      const rows = Array.from({ length: sheet.rowCount }, (_, at): unknown[] => {
        const { values } = sheet.getRow(at + 1);
        return Array.isArray(values) ? Array.from(values.slice(1)) : [];
      });
      return sheetLines(sheet.name.trim(), rows);
    })
    .filter(({ rows }) => rows > 0);
}

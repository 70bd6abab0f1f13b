import { readFile } from 'node:fs/promises';
import type { Download } from '@playwright/test';
import { parse } from 'csv-parse/sync';
import ExcelJS from 'exceljs';
import { idIn } from '@/server/testing/held-answers';

/** The id in a file for people, in words, or null: one that stands in a column called so is meant for programs. */
export async function idInFile(download: Download): Promise<string | null> {
  const name = download.suggestedFilename();
  const path = await download.path();
  if (name.endsWith('.html')) return idIn(await readFile(path, 'utf8'), name);
  if (name.endsWith('.csv')) return idIn(cellsOf(await readFile(path, 'utf8')), name);
  if (!name.endsWith('.xlsx')) return null;
  const book = new ExcelJS.Workbook();
  await book.xlsx.readFile(path);
  const texts: string[] = [];
  for (const sheet of book.worksheets)
    sheet.eachRow((row, number) =>
      row.eachCell((cell, column) => {
        if (number > 1 && sheet.getRow(1).getCell(column).text === 'id') return;
        texts.push(cell.text);
      }),
    );
  return idIn(texts.join('\n'), name);
}

function cellsOf(csv: string): string {
  const rows = parse(csv, { bom: true, relaxColumnCount: true }) as string[][];
  const meant = (rows[0] ?? []).map((head) => head === 'id');
  return rows.flatMap((row) => row.filter((_, at) => !meant[at])).join('\n');
}

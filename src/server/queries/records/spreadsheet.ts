import type { Field } from '@/core/model';
import type { WireValue } from '@/core/values';
import type { RecordList } from '@/core/api';
import ExcelJS from 'exceljs';
import { PassThrough } from 'node:stream';

/** Most records that fit into a sheet, with its row of headings (ECMA-376: 1,048,576 rows). */
export const MOST_ROWS = 1_048_575;

/** Amounts of more digits than this would be changed by a spreadsheet; they go in as text. */
const MOST_DIGITS = 15;

type Words = (field: Field, value: WireValue, names: Readonly<Record<string, string>>) => string | number;

/**
 * A workbook with one sheet, written page by page. Numbers and amounts are numbers with their places, dates are dates; everything else is
 * text, which a spreadsheet never takes for a formula.
 */
export async function* workbookOf(
  fields: readonly Field[],
  headings: readonly string[],
  pages: AsyncIterable<RecordList>,
  words: Words,
): AsyncGenerator<Uint8Array> {
  const out = new PassThrough();
  const writing = write(out, fields, headings, pages, words).catch((error: unknown) => {
    out.destroy(error as Error);
  });
  for await (const piece of out) yield piece as Uint8Array;
  await writing;
}

async function write(
  out: PassThrough,
  fields: readonly Field[],
  headings: readonly string[],
  pages: AsyncIterable<RecordList>,
  words: Words,
): Promise<void> {
  const workbook = new ExcelJS.stream.xlsx.WorkbookWriter({ stream: out, useStyles: true });
  const sheet = workbook.addWorksheet('Records', { views: [{ state: 'frozen', ySplit: 1 }] });
  sheet.columns = [...fields, null].map((field) => ({
    width: field ? widthOf(field) : 38,
    style: field ? styleOf(field) : {},
  }));
  const head = sheet.addRow([...headings]);
  head.font = { bold: true };
  head.commit();
  for await (const { records, names } of pages) {
    for (const record of records)
      sheet
        .addRow([
          ...fields.map((field) => cellOf(field, record.values[field.key] ?? null, names, words)),
          record.id,
        ])
        .commit();
    // The writer keeps what the stream doesn't take yet; waiting keeps that small.
    if (out.writableNeedDrain) await new Promise<void>((resolve) => out.once('drain', resolve));
  }
  await workbook.commit();
}

function cellOf(
  field: Field,
  value: WireValue,
  names: Readonly<Record<string, string>>,
  words: Words,
): string | number | Date | null {
  if (value === null) return null;
  const { kind } = field.type;
  if (kind === 'date') return new Date(`${value as string}T00:00:00Z`);
  const text = words(field, value, names);
  const isNumber = kind === 'number' || kind === 'money' || kind === 'rating';
  if (!isNumber) return String(text);
  const digits = String(text).replace(/[-.]/g, '').replace(/^0+/, '');
  return digits.length > MOST_DIGITS ? String(text) : Number(text);
}

function styleOf({ type }: Field): Partial<ExcelJS.Style> {
  if (type.kind === 'date') return { numFmt: 'yyyy-mm-dd' };
  if (type.kind === 'money') return { numFmt: '#,##0.00' };
  if (type.kind === 'number') return { numFmt: type.scale > 0 ? `#,##0.${'0'.repeat(type.scale)}` : '#,##0' };
  return { numFmt: '@' };
}

const widthOf = ({ type }: Field): number =>
  ({ longText: 48, text: 30, link: 30, date: 12, yesNo: 8 })[type.kind as string] ?? 16;

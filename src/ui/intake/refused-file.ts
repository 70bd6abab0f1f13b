import { csvRecords, type ImportPlan } from '@/core/intake';
import type { RefusedRowView } from '@/core/api';
import Papa from 'papaparse';
import { cellText } from './read-head';

/** Heading of the column that says why a row is refused. */
const WHY = 'Why it was refused';
/** Most characters of one row, as the server reads them. */
const MOST_ROW = 200_000;

interface Row {
  readonly line: number;
  readonly cells: readonly string[];
}

/**
 * The refused rows of a file as CSV, as they stand there, with why in a column of its own, so that they can be corrected and taken in again.
 * A row that can't be read stands whole in the first column.
 */
export async function refusedText(
  file: Blob,
  plan: Pick<ImportPlan, 'format' | 'encoding' | 'separator'>,
  refusals: readonly RefusedRowView[],
): Promise<string> {
  const why = new Map<number, string[]>();
  for (const { line, message } of refusals) why.set(line, [...(why.get(line) ?? []), message]);
  const text = new TextDecoder(plan.encoding).decode(await file.arrayBuffer());
  const { headings, rows } =
    plan.format === 'csv' ? await csvRows(text, plan.separator, why) : jsonRows(text, why);
  const told = rows.map(({ line, cells }) => [
    ...headings.map((_, at) => cells[at] ?? ''),
    (why.get(line) ?? []).join(' '),
  ]);
  return Papa.unparse([[...headings, WHY], ...told], { delimiter: plan.separator });
}

type Why = ReadonlyMap<number, readonly string[]>;

async function csvRows(text: string, separator: string, why: Why) {
  const { parse } = await import('csv-parse/browser/esm/sync');
  async function* whole() {
    yield text;
  }
  const lines = text.split(/\r\n|\n|\r/);
  let headings: readonly string[] | null = null;
  const rows: Row[] = [];
  for await (const record of csvRecords(whole(), { separator, most: MOST_ROW, parse })) {
    if (headings === null) headings = 'cells' in record ? record.cells : [];
    else if (why.has(record.line))
      rows.push({
        line: record.line,
        cells: 'cells' in record ? record.cells : [lines[record.line - 1] ?? ''],
      });
  }
  return { headings: headings ?? [], rows };
}

function jsonRows(text: string, why: Why) {
  const refused = text
    .split('\n')
    .flatMap((one, at) => (why.has(at + 1) ? [{ line: at + 1, text: one, value: objectIn(one) }] : []));
  const headings = [...new Set(refused.flatMap(({ value }) => Object.keys(value ?? {})))];
  return {
    headings: headings.length > 0 ? headings : ['Row'],
    rows: refused.map(({ line, text: written, value }): Row => ({
      line,
      cells: value ? headings.map((heading) => cellText(value[heading])) : [written],
    })),
  };
}

function objectIn(line: string): Record<string, unknown> | null {
  try {
    const value: unknown = JSON.parse(line);
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : null;
  } catch {
    return null; // it stands there as it is
  }
}

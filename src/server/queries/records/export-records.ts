import { writeCount } from '@/core/values';
import { type Field, fieldIn, typeIn } from '@/core/model';
import type { WireValue } from '@/core/values';
import type { WireRecord } from '@/core/verify';
import type { RecordList } from '@/core/api';
import { unparse } from 'papaparse';
import { database } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { countAll, type ListInput, listRecords } from './list-records';
import { MOST_ROWS, workbookOf } from './spreadsheet';

/** What a list leaves as, and its content type. */
export const FORMATS = {
  csv: 'text/csv; charset=utf-8',
  jsonl: 'application/x-ndjson; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
} as const;
export type ExportFormat = keyof typeof FORMATS;

export interface ExportInput extends Omit<ListInput, 'limit' | 'after'> {
  readonly format: ExportFormat;
  /** Keys of the fields that are wanted, in order; `null` for all. */
  readonly fields: readonly string[] | null;
}

export interface Exported {
  readonly name: string;
  readonly contentType: string;
  /** The file, piece by piece: however long the list, no more than a page of it is held. */
  readonly pieces: AsyncIterable<string | Uint8Array>;
}

const PAGE = 1_000;

/**
 * A whole list as a file. CSV (RFC 4180) is for people: links and people by name, options by name, amounts as digits with the
 * currency in the heading; what a spreadsheet would take for a formula is made text. XLSX is the same with numbers and dates as such.
 * JSON Lines is for programs: values as the API has them. Refuses fields that aren't there, and more records than a sheet has rows.
 */
export async function exportRecords(workspace: LoadedWorkspace, input: ExportInput): Promise<Exported> {
  const { format, fields: wanted, ...list } = input;
  const first = await listRecords(workspace, { ...list, limit: PAGE });
  const type = typeIn(workspace.model, input.type);
  const fields = (wanted ?? type.fields.map(({ key }) => key)).map((key) => {
    if (workspace.model.field(type.key, key)) return fieldIn(workspace.model, type.key, key);
    throw new Refusal(422, 'export.field', `${type.name} has no field “${key}” to export.`);
  });
  const pages = pagesOf(workspace, list, first);
  if (format === 'xlsx' && first.count && !first.count.isExact) await checkRows(workspace, list);
  return {
    name: `${type.key}.${format}`,
    contentType: FORMATS[format],
    pieces:
      format === 'xlsx'
        ? workbookOf(fields, headingsOf(fields), pages, wordsOf)
        : printed(pages, format === 'csv' ? csvOf(fields) : linesOf(fields)),
  };
}

type Print = (page: RecordList, isFirst: boolean) => string;

async function* pagesOf(
  workspace: LoadedWorkspace,
  list: Omit<ListInput, 'limit' | 'after'>,
  first: RecordList,
): AsyncGenerator<RecordList> {
  yield first;
  for (let after = first.next; after !== null;) {
    const page = await listRecords(workspace, { ...list, limit: PAGE, after });
    yield page;
    after = page.next;
  }
}

async function* printed(pages: AsyncIterable<RecordList>, print: Print): AsyncGenerator<string> {
  let isFirst = true;
  for await (const page of pages) {
    yield print(page, isFirst);
    isFirst = false;
  }
}

async function checkRows(
  workspace: LoadedWorkspace,
  list: Omit<ListInput, 'limit' | 'after'>,
): Promise<void> {
  const number = await database().transaction((transaction) =>
    countAll(transaction, workspace, { ...list, limit: 0 }),
  );
  if (number <= MOST_ROWS) return;
  const message = `The list has ${writeCount(number)} records, and a sheet at most ${writeCount(MOST_ROWS)}. Export it as CSV, or narrow it.`;
  throw new Refusal(422, 'export.size', message);
}

/** Where a spreadsheet begins to read a cell: also after what it may take for a separator or a line's end. */
const BEGINS = '(^|[;|\\t\\r\\n])';
/** What it takes for a formula, after blanks and in full width as well; a number alone isn't one. */
const FORMULA = new RegExp(`${BEGINS}(?=\\s*(?:[=＝+＋@＠]|[-－](?!\\d+(?:\\.\\d+)?$)))|^(?=[\\t\\r])`, 'gu');

/** A cell's text made harmless: what would be read as a formula stands behind an apostrophe. */
export const harmless = (cell: string | number): string | number =>
  typeof cell === 'number' ? cell : cell.replace(FORMULA, "$1'");

/** Rows as CSV for people: a byte-order mark tells spreadsheets that it is UTF-8, and what they would take for a formula is made text. */
export function csvText(rows: readonly (readonly (string | number)[])[], isFirst = true): string {
  const text = unparse(rows.map((row) => row.map(harmless)));
  return (isFirst ? '\ufeff' : '') + (text === '' ? '' : `${text}\r\n`);
}

const csvOf =
  (fields: readonly Field[]): Print =>
  ({ records, names }, isFirst) => {
    const heading = headingsOf(fields);
    const rows = records.map((record) => [
      ...fields.map((field) => wordsOf(field, record.values[field.key] ?? null, names)),
      record.id,
    ]);
    return csvText(isFirst ? [heading, ...rows] : rows, isFirst);
  };

const headingsOf = (fields: readonly Field[]): string[] => [...fields.map(headingOf), 'id'];

function headingOf({ name, type }: Field): string {
  if (type.kind === 'money') return `${name} (${type.currency})`;
  return type.kind === 'number' && type.unit ? `${name} (${type.unit})` : name;
}

function wordsOf(
  { type }: Field,
  value: WireValue,
  names: Readonly<Record<string, string>>,
): string | number {
  if (value === null) return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'object' && 'amount' in value)
    return type.kind === 'anyMoney' ? `${value.amount} ${value.currency}` : value.amount;
  if (type.kind === 'choice' || type.kind === 'choices') {
    const nameOf = (key: string) => type.options.find((option) => option.key === key)?.name ?? key;
    return [value as string | readonly string[]].flat().map(nameOf).join('; ');
  }
  if (type.kind === 'link' || type.kind === 'person') return names[value as string] ?? (value as string);
  return value as string | number;
}

const linesOf =
  (fields: readonly Field[]): Print =>
  ({ records }) =>
    records.map((record) => `${JSON.stringify(valuesOf(fields, record))}\n`).join('');

const valuesOf = (fields: readonly Field[], { id, values }: WireRecord): Record<string, WireValue> => ({
  id,
  ...Object.fromEntries(fields.map(({ key }) => [key, values[key] ?? null])),
});

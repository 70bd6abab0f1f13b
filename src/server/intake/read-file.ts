import { certain, type ProblemCode, writeCount } from '@/core/values';
import { csvRecords, type ImportPlan, NotATable } from '@/core/intake';
import { parse } from 'csv-parse/sync';
import { Refusal } from '@/server/refusal';

/** A row of a file: its line (of CSV, the line on which it ends), and its cells by heading. */
export interface FileRow {
  readonly line: number;
  readonly cells: Readonly<Record<string, unknown>>;
  /** What is wrong with the row as a whole; then it has no cells. */
  readonly flaw?: string;
}

export type Bytes = AsyncIterable<Uint8Array>;

/** Most characters of one row. */
const MOST_ROW = 200_000;

const refused = (code: ProblemCode, message: string): Refusal => new Refusal(422, code, message);

/** Reads a file row by row, however long it is. Refuses bytes in another encoding and a heading that doesn't serve. */
export const readFile = (plan: ImportPlan, bytes: Bytes): AsyncGenerator<FileRow> =>
  plan.format === 'csv' ? readCsv(plan, bytes) : readJsonLines(plan, bytes);

/** Text from bytes; says what the encoding seems to be when it isn't the plan's. */
async function* textOf({ encoding }: ImportPlan, bytes: Bytes): AsyncGenerator<string> {
  const decoder = new TextDecoder(encoding, { fatal: true });
  let isFirst = true;
  let read = 0;
  const decode = (piece: Uint8Array | null): string => {
    try {
      return piece ? decoder.decode(piece, { stream: true }) : decoder.decode();
    } catch {
      const message = `The file isn’t ${NAMES[encoding]}: something after about ${writeCount(read)} characters can’t be read as that. Choose another encoding, or save it as UTF-8.`;
      throw refused('import.encoding', message);
    }
  };
  for await (const piece of bytes) {
    if (isFirst) checkMark(encoding, piece);
    isFirst = false;
    const text = decode(piece);
    if (text.includes('\u0000')) {
      const message = `The file holds NUL characters, so it isn’t text in ${NAMES[encoding]}. Choose another encoding (UTF-16 has many of them), or save it as CSV in UTF-8.`;
      throw refused('import.encoding', message);
    }
    read += text.length;
    yield text;
  }
  yield decode(null);
}

const NAMES: Record<ImportPlan['encoding'], string> = {
  'utf-8': 'UTF-8',
  'utf-16le': 'UTF-16',
  'windows-1252': 'Windows-1252',
};

/** What the first bytes of files say that aren't text of the encoding. */
function checkMark(encoding: ImportPlan['encoding'], piece: Uint8Array): void {
  const [a, b, c, d] = piece;
  if (a === 0x50 && b === 0x4b && c === 3 && d === 4)
    throw refused(
      'import.format',
      'This is a spreadsheet or an archive, not a text file. Save it as CSV first.',
    );
  const isUtf16 = (a === 0xff && b === 0xfe) || (a === 0xfe && b === 0xff);
  if (isUtf16 && encoding !== 'utf-16le')
    throw refused(
      'import.encoding',
      'The file begins with the mark of UTF-16. Choose that encoding, or save it as UTF-8.',
    );
  if (a === 0xef && b === 0xbb && c === 0xbf && encoding !== 'utf-8')
    throw refused('import.encoding', 'The file begins with the mark of UTF-8. Choose that encoding.');
}

async function* readCsv(plan: ImportPlan, bytes: Bytes): AsyncGenerator<FileRow> {
  let heading: readonly string[] | null = null;
  const form = { separator: plan.separator, most: MOST_ROW, parse };
  for await (const row of refusing(csvRecords(textOf(plan, bytes), form))) {
    if ('flaw' in row) {
      if (heading === null)
        throw refused('import.csv', `Line ${writeCount(row.line)}, the headings: ${row.flaw}`);
      yield { line: row.line, cells: {}, flaw: row.flaw };
    } else if (heading === null) heading = checkHeading(plan, row.cells);
    else yield rowOf(heading, row.line, row.cells);
  }
  if (heading === null)
    throw refused('import.empty', 'The file is empty. It should begin with a row of headings.');
}

async function* refusing<T>(rows: AsyncIterable<T>): AsyncGenerator<T> {
  try {
    yield* rows;
  } catch (error) {
    throw error instanceof NotATable ? refused('import.csv', error.message) : error;
  }
}

function checkHeading({ columns, separator }: ImportPlan, record: readonly string[]): readonly string[] {
  const heading = record.map((text) => text.trim());
  for (const { column } of columns) {
    const times = heading.filter((text) => text === column).length;
    if (times === 1) continue;
    const hint =
      heading.length === 1
        ? ` It has one column only: perhaps another separator than “${separator === '\t' ? 'tab' : separator}”.`
        : '';
    throw refused(
      'import.heading',
      times === 0
        ? `The file has no column “${column}”. Its columns are ${heading.map((text) => `“${text}”`).join(', ')}.${hint} Choose its columns again.`
        : `The file has ${times} columns “${column}”. Give each a heading of its own.`,
    );
  }
  return heading;
}

function rowOf(heading: readonly string[], line: number, record: readonly string[]): FileRow {
  if (record.length === heading.length)
    return { line, cells: Object.fromEntries(heading.map((name, at) => [name, record[at]])) };
  const flaw = `The row has ${record.length} ${record.length === 1 ? 'value' : 'values'}, and the heading ${heading.length}. Perhaps a separator or a quote is missing or too many.`;
  return { line, cells: {}, flaw };
}

async function* readJsonLines(plan: ImportPlan, bytes: Bytes): AsyncGenerator<FileRow> {
  let [line, rest] = [0, ''];
  const read = (text: string): FileRow[] => {
    line += 1;
    const plain = text.replace(/^\ufeff/, '');
    return plain.trim() === '' ? [] : [jsonRow(plain, line)];
  };
  for await (const piece of textOf(plan, bytes)) {
    const lines = (rest + piece).split('\n');
    rest = certain(lines.pop());
    if (rest.length > MOST_ROW)
      throw refused(
        'import.json',
        `Line ${line + 1} has more than ${writeCount(MOST_ROW)} characters. Put one record on each line.`,
      );
    for (const one of lines) yield* read(one);
  }
  yield* read(rest);
}

function jsonRow(text: string, line: number): FileRow {
  try {
    const value: unknown = JSON.parse(text);
    if (typeof value === 'object' && value !== null && !Array.isArray(value))
      return { line, cells: value as Record<string, unknown> };
    return { line, cells: {}, flaw: 'The line should hold an object of fields and values.' };
  } catch (error) {
    return { line, cells: {}, flaw: `The line isn’t JSON: ${(error as Error).message}.` };
  }
}

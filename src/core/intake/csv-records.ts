import { firstIn, itemAt, lastIn, writeCount } from '@/core/values';

/** A row of a CSV file: the line on which it ends, and its cells, or what is wrong with it. */
export type CsvRecord =
  | { readonly line: number; readonly cells: readonly string[] }
  | { readonly line: number; readonly flaw: string };

/** Reads a text whole: `parse` of csv-parse, of which the server and the browser have each their own build. */
export type CsvParser = (
  text: string,
  options: { delimiter: string; relax_column_count: true; record_delimiter: string[] },
) => string[][];

/** What was read is hardly a table: a line of it never ends. */
export class NotATable extends Error {}

export interface CsvForm {
  readonly parse: CsvParser;
  readonly separator: string;
  /** Most characters of one row. */
  readonly most: number;
}

/** Rows that are read at once: one call for each would be slow. */
const AT_ONCE = 1_000;

interface Line {
  readonly number: number;
  /** As it stands, its end included. */
  readonly text: string;
}

/** The lines of a text that comes in pieces: ended by CR LF, LF or CR, as the file has them. */
async function* linesOf(pieces: AsyncIterable<string>, most: number): AsyncGenerator<Line> {
  let [number, rest, isFirst] = [0, '', true];
  for await (const piece of pieces) {
    const text: string = rest + (isFirst ? piece.replace(/^\ufeff/, '') : piece);
    if (piece !== '') isFirst = false;
    let from = 0;
    for (const end of text.matchAll(/\r\n|\n|\r(?=[^])/g)) {
      const to = end.index + end[0].length;
      yield { number: (number += 1), text: text.slice(from, to) };
      from = to;
    }
    rest = text.slice(from);
    if (rest.length > most) {
      const message = `Line ${writeCount(number + 1)} has more than ${writeCount(most)} characters, so this is hardly a table. Choose another file.`;
      throw new NotATable(message);
    }
  }
  if (rest !== '') yield { number: number + 1, text: rest };
}

const isOpen = (text: string): boolean => (text.split('"').length - 1) % 2 === 1;
const isBlank = (text: string): boolean => text === '\n' || text === '\r\n' || text === '\r';

/**
 * The rows of a CSV file (RFC 4180), however long it is. A value in quotes may hold line ends; where a quote is never closed, or what follows
 * from it can't be read, only the line on which the row begins is refused, and reading goes on with the next.
 */
export async function* csvRecords(pieces: AsyncIterable<string>, form: CsvForm): AsyncGenerator<CsvRecord> {
  const lines = linesOf(pieces, form.most);
  /** Lines that were read ahead and not used. */
  let ahead: Line[] = [];
  let isEnd = false;
  const next = async (): Promise<Line | null> => {
    const waiting = ahead.shift();
    if (waiting) return waiting;
    if (isEnd) return null;
    const { value, done } = await lines.next();
    isEnd = done === true;
    return value ?? null;
  };
  let batch: Line[] = [];
  let width: number | null = null;
  for (;;) {
    const first = await next();
    if (first && isBlank(first.text)) continue;
    const isWhole = first !== null && !isOpen(first.text);
    if (isWhole) batch.push(first);
    if (batch.length > 0 && (batch.length >= AT_ONCE || !isWhole)) {
      for (const record of readRows(batch, form)) {
        if ('cells' in record) width ??= record.cells.length;
        yield record;
      }
      batch = [];
    }
    if (first === null) return;
    if (isWhole) continue;
    const { record, unused } = readRow(await linesFrom(first, next, form), form, width);
    if ('cells' in record) width ??= record.cells.length;
    ahead = [...unused, ...ahead];
    yield record;
  }
}

/** The lines of a row whose first leaves a quote open: up to the one that closes it, or as many as a row may have. */
async function linesFrom(
  first: Line,
  next: () => Promise<Line | null>,
  { most }: CsvForm,
): Promise<readonly Line[]> {
  const lines = [first];
  let length = first.text.length;
  for (let open = true; open && length <= most;) {
    const line = await next();
    if (!line) break;
    lines.push(line);
    length += line.text.length;
    open = !isOpen(line.text);
  }
  return lines;
}

/** Rows of one line each. */
function readRows(lines: readonly Line[], form: CsvForm): readonly CsvRecord[] {
  const read = parsed(textOf(lines), form);
  if (Array.isArray(read) && read.length === lines.length)
    return read.map((cells, at) => ({ line: itemAt(lines, at).number, cells }));
  return lines.map((line) => readRow([line], form, null).record);
}

interface ReadRow {
  readonly record: CsvRecord;
  /** Lines that belonged to it only by a quote that stands where it shouldn't. */
  readonly unused: readonly Line[];
}

const textOf = (lines: readonly Line[]): string => {
  const text = lines.map((line) => line.text).join('');
  return /[\r\n]$/.test(text) ? text : `${text}\n`;
};

function readRow(lines: readonly Line[], form: CsvForm, width: number | null): ReadRow {
  const first = firstIn(lines);
  const others = lines.slice(1);
  const text = textOf(lines);
  const read = text.length > form.most ? null : parsed(text, form);
  const [cells] = Array.isArray(read) ? read : [];
  // A row over several lines that doesn't fit the heading is more likely a quote too many than a row.
  const fits = cells !== undefined && (others.length === 0 || width === null || cells.length === width);
  if (fits) return { record: { line: lastIn(lines).number, cells }, unused: [] };
  const told =
    others.length > 0
      ? `A quote is opened on this line and not closed where the value ends.`
      : read === null
        ? `The row has more than ${writeCount(form.most)} characters.`
        : typeof read === 'string'
          ? read
          : 'The row can’t be read.';
  return { record: { line: first.number, flaw: `${told} Correct it.` }, unused: others };
}

/** The rows of a text, or what is wrong with it. */
function parsed(text: string, { separator, parse }: CsvForm): string[][] | string {
  try {
    return parse(text, {
      delimiter: separator,
      relax_column_count: true,
      record_delimiter: ['\r\n', '\n', '\r'],
    });
  } catch (error) {
    const { code, message } = error as { readonly code?: string; readonly message: string };
    if (code === undefined) throw error;
    return WORDS[code] ?? `${message}.`;
  }
}

const WORDS: Partial<Record<string, string>> = {
  CSV_QUOTE_NOT_CLOSED: 'A quote is opened and never closed.',
  INVALID_OPENING_QUOTE: 'A quote stands within a value that doesn’t begin with one.',
  CSV_INVALID_CLOSING_QUOTE: 'Something stands between a closing quote and the separator.',
};

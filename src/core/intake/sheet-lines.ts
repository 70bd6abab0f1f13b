import { freeName } from '@/core/free-name';

/** A sheet of a workbook: its name, and its rows as JSON Lines, each on the line that has the row's number. */
export interface SheetLines {
  readonly name: string;
  readonly lines: string;
  /** Rows beneath the headings. */
  readonly rows: number;
}

/** Decimal digits that a spreadsheet keeps of a number; more are left from how it is stored. */
const DIGITS = 15;

/**
 * What a cell of a workbook holds, as a file would have it: a number as one, days and moments as ISO 8601 has them, yes and no, texts without
 * their looks, of a formula what it came to. Nothing where it is empty or in error.
 */
export function cellValue(cell: unknown): string | number | null {
  if (cell === null || cell === undefined) return null;
  if (typeof cell === 'number') return Number.isFinite(cell) ? Number(cell.toPrecision(DIGITS)) : null;
  if (typeof cell === 'boolean') return cell ? 'yes' : 'no';
  if (cell instanceof Date) return Number.isNaN(cell.getTime()) ? null : dayOrMoment(cell);
  if (typeof cell === 'string') return cell.trim() === '' ? null : cell;
  if (typeof cell !== 'object') return null;
  const { result, richText, text } = cell as Partial<Record<string, unknown>>;
  if (result !== undefined) return cellValue(result);
  if (Array.isArray(richText))
    return cellValue((richText as readonly { text?: string }[]).map((piece) => piece.text ?? '').join(''));
  return text === undefined ? null : cellValue(text);
}

/** Spreadsheets know no zone: what is written there is what is read. A day is a moment at midnight. */
function dayOrMoment(moment: Date): string {
  const [day = '', time = ''] = moment.toISOString().split('T');
  return time.startsWith('00:00:00') ? day : `${day} ${time.slice(0, 8)}`;
}

/** The rows of a sheet by their numbers, from 1, each a list of cells, as JSON Lines. The first that holds something has the headings. */
export function sheetLines(name: string, rows: readonly (readonly unknown[])[]): SheetLines {
  const values = rows.map((cells) => cells.map(cellValue));
  const isFilled = (row: readonly unknown[]) => row.some((value) => value !== null);
  const at = values.findIndex(isFilled);
  if (at === -1) return { name, lines: '', rows: 0 };
  const width = Math.max(...values.slice(at).map((row) => row.length));
  const headings = headingsOf(values[at] ?? [], width, values.slice(at + 1));
  const lines = values.map((row, index) =>
    index <= at || !isFilled(row)
      ? ''
      : JSON.stringify(
          Object.fromEntries(
            headings.flatMap((heading, place) => (heading === null ? [] : [[heading, row[place] ?? null]])),
          ),
        ),
  );
  return { name, lines: lines.join('\n'), rows: lines.filter((line) => line !== '').length };
}

/** Each heading once; a column without one is named by its place where it holds something, and left out otherwise. */
function headingsOf(
  row: readonly (string | number | null)[],
  width: number,
  below: readonly (readonly unknown[])[],
): (string | null)[] {
  const taken = new Set<string>();
  return Array.from({ length: width }, (_, at) => {
    const written = String(row[at] ?? '').trim();
    if (written === '' && !below.some((cells) => (cells[at] ?? null) !== null)) return null;
    const plain = written === '' ? `Column ${at + 1}` : written;
    const heading = freeName(
      (number) => (number === 1 ? plain : `${plain} (${number})`),
      (name) => taken.has(name),
    );
    taken.add(heading);
    return heading;
  });
}

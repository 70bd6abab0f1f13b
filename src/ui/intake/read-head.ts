import { type ImportPlan, proposeType, type ProposedType } from '@/core/intake';
import Papa from 'papaparse';

/** How a file is read as text, before its columns are known. */
export type Reading = Pick<ImportPlan, 'format' | 'encoding' | 'separator'>;

/** The beginning of a file. */
export interface Head {
  readonly reading: Reading;
  readonly headings: readonly string[];
  /** Cells as text, in the order of the headings. */
  readonly rows: readonly (readonly string[])[];
  /** Whether these are all rows of the file. */
  readonly isAll: boolean;
}

const MOST_BYTES = 1_000_000;
const MOST_ROWS = 5_000;
const SEPARATORS = [',', ';', '\t', '|'] as const;

/** Reads the beginning of a file: as it seems to be written, or as a person says. Refuses (throws) what isn't text. */
export async function readHead(file: File, said: Partial<Reading> = {}): Promise<Head> {
  const isAll = file.size <= MOST_BYTES;
  const bytes = new Uint8Array(await file.slice(0, MOST_BYTES).arrayBuffer());
  if (bytes[0] === 0x50 && bytes[1] === 0x4b)
    throw new Error('This is a spreadsheet or an archive, not a text file. Save it as CSV first.');
  const { encoding, text } = decoded(bytes, said.encoding);
  if (text.trim() === '')
    throw new Error('The file is empty. Choose one with a row of headings and rows under it.');
  const isLines = /\.(jsonl|ndjson)$/i.test(file.name) || text.trimStart().startsWith('{');
  const format = said.format ?? (isLines ? 'jsonLines' : 'csv');
  // What was cut off in the middle isn't a row.
  const whole = isAll ? text : text.slice(0, text.lastIndexOf('\n') + 1);
  if (format === 'jsonLines')
    return { ...readLines(whole), reading: { format, encoding, separator: ',' }, isAll };
  const parsed = Papa.parse<string[]>(whole, {
    ...{ skipEmptyLines: true, preview: MOST_ROWS + 1 },
    ...(said.separator ? { delimiter: said.separator } : { delimitersToGuess: [...SEPARATORS] }),
  });
  const separator = said.separator ?? SEPARATORS.find((one) => one === parsed.meta.delimiter) ?? ',';
  const [headings = [], ...rows] = parsed.data;
  return {
    reading: { format, encoding, separator },
    headings: headings.map((heading) => heading.trim()),
    ...{ rows, isAll: isAll && rows.length < MOST_ROWS },
  };
}

function decoded(
  bytes: Uint8Array,
  said: Reading['encoding'] | undefined,
): { encoding: Reading['encoding']; text: string } {
  const read = (encoding: Reading['encoding'], fatal: boolean) =>
    new TextDecoder(encoding, { fatal }).decode(bytes, { stream: true });
  if (said) return { encoding: said, text: read(said, false) };
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return { encoding: 'utf-16le', text: read('utf-16le', false) };
  try {
    return { encoding: 'utf-8', text: read('utf-8', true) };
  } catch {
    return { encoding: 'windows-1252', text: read('windows-1252', false) };
  }
}

function readLines(text: string): Pick<Head, 'headings' | 'rows'> {
  const records = text
    .split('\n')
    .filter((line) => line.trim() !== '')
    .slice(0, MOST_ROWS)
    .flatMap((line): Record<string, unknown>[] => {
      try {
        const value: unknown = JSON.parse(line);
        return typeof value === 'object' && value !== null ? [value as Record<string, unknown>] : [];
      } catch {
        return []; // told with its line by the rehearsal
      }
    });
  const headings = [...new Set(records.flatMap((record) => Object.keys(record)))];
  const rows = records.map((record) => headings.map((heading) => cellText(record[heading])));
  return { headings, rows };
}

/** A value of JSON as a cell: nothing, a text or a number as they are, what holds several as JSON. */
export function cellText(value: unknown): string {
  if (value === null || value === undefined) return '';
  return typeof value === 'object' ? JSON.stringify(value) : String(value as string | number | boolean);
}

/** What fields the columns suggest; the zone of date-times is this browser's. */
export const proposalOf = (head: Head): ProposedType =>
  proposeType(head.headings, head.rows, { timeZone: zoneHere(), types: [] });

/** The IANA name of this browser's zone. */
export const zoneHere = (): string => Intl.DateTimeFormat().resolvedOptions().timeZone;

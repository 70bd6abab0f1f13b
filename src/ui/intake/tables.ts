import { type Remote, wrap } from 'comlink';
import type { WorkbookApi } from './workbook.worker';

/** A table that can be taken in: a file of text, or a sheet of a workbook as one. */
export interface Table {
  /** The file's name without its ending, or the sheet's. */
  readonly called: string;
  readonly file: File;
}

/** The media type of a sheet: its encoding is nobody's question. */
export const SHEET = 'application/jsonl';

/** Most bytes of a workbook: it is read whole, in the browser. */
const MOST_BYTES = 30_000_000;

const [P, K] = [0x50, 0x4b];

/** The tables of a file: of a workbook its sheets, of any other itself. Refuses (throws) a workbook without rows, and one too large. */
export async function tablesOf(file: File): Promise<readonly Table[]> {
  const start = new Uint8Array(await file.slice(0, 4).arrayBuffer());
  if (start[0] === 0xd0 && start[1] === 0xcf)
    throw new Error('This is a workbook in the old form (XLS). Save it as XLSX, or a sheet of it as CSV.');
  if (start[0] !== P || start[1] !== K) return [{ called: file.name.replace(/\.[^.]*$/, ''), file }];
  if (file.size > MOST_BYTES)
    throw new Error(
      `The workbook has ${Math.round(file.size / 1_000_000)} MB; at most ${MOST_BYTES / 1_000_000} are read. Save its sheets as CSV, and choose these.`,
    );
  const worker = new Worker(new URL('./workbook.worker.ts', import.meta.url), { type: 'module' });
  try {
    const api: Remote<WorkbookApi> = wrap<WorkbookApi>(worker);
    const sheets = await api.sheetsIn(await file.arrayBuffer());
    if (sheets.length === 0)
      throw new Error('No sheet of the workbook has a row of headings and rows under it. Choose another.');
    return sheets.map(({ name, lines }) => ({
      called: name,
      file: new File([lines], `${file.name}, sheet ${name}`, {
        ...{ type: SHEET, lastModified: file.lastModified },
      }),
    }));
  } finally {
    worker.terminate();
  }
}

/** A table that was copied from elsewhere, as a file; cells copied from a spreadsheet have tabs between them. */
export const pastedFile = (text: string): File =>
  new File([text.replace(/^\s*\n/, '')], 'Pasted table', { lastModified: 0 });

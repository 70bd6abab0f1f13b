import type { Row } from '@/core/engine';
import { typeIn } from '@/core/model';
import type { Value, ValueType } from '@/core/values';
import { from as copyFrom } from 'pg-copy-streams';
import type { Transaction } from 'sequelize';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { columnOf, type Schema, tableOf } from './sql';
import { toColumn } from './columns';

/** Rows are handed over in pieces of about this many characters. */
const PIECE = 1 << 16;

/**
 * Copies new records of one type into their table by COPY, as made by a run. The records must fit the model; what a rule
 * keeps is empty in them. Answers how many there were.
 */
export function copyRows(
  transaction: Transaction,
  schema: Schema,
  type: string,
  run: string,
  rows: Iterable<Pick<Row, 'id' | 'values'>> | AsyncIterable<Pick<Row, 'id' | 'values'>>,
): Promise<number> {
  const { fields } = typeIn(schema.model, type);
  const columns = ['id', 'created_run', 'changed_run', ...fields.map((field) => columnOf(field.key))];
  async function* lines(): AsyncGenerator<string> {
    for await (const { id, values } of rows) {
      let line = `${id}\t${run}\t${run}`;
      for (const { key, type: valueType } of fields) line += `\t${copyText(valueType, values[key] ?? null)}`;
      yield `${line}\n`;
    }
  }
  return copyLines(transaction, `${tableOf(schema.schema, type)} (${columns.join(', ')})`, lines());
}

/** Copies lines in COPY's text format into columns of a table. Answers how many there were. */
export async function copyLines(
  transaction: Transaction,
  into: string,
  lines: AsyncIterable<string>,
): Promise<number> {
  const { connection } = transaction as unknown as { connection: CopyConnection };
  const wasPipeline = connection.pipeline;
  connection.pipeline = false; // COPY has the connection to itself
  const stream = connection.query(copyFrom(`COPY ${into} FROM STDIN`));
  let count = 0;
  async function* pieces(): AsyncGenerator<string> {
    let piece = '';
    for await (const line of lines) {
      piece += line;
      count += 1;
      if (piece.length < PIECE) continue;
      yield piece;
      piece = '';
    }
    if (piece) yield piece;
  }
  try {
    await pipeline(Readable.from(pieces()), stream);
  } finally {
    connection.pipeline = wasPipeline;
  }
  return count;
}

interface CopyConnection {
  pipeline: boolean;
  query(stream: ReturnType<typeof copyFrom>): ReturnType<typeof copyFrom>;
}

const ESCAPES: Record<string, string> = { '\\': '\\\\', '\t': '\\t', '\n': '\\n', '\r': '\\r' };
const NEEDS_ESCAPE = /[\\\t\n\r]/;
const escaped = (text: string): string =>
  NEEDS_ESCAPE.test(text) ? text.replace(/[\\\t\n\r]/g, (found) => ESCAPES[found]!) : text;

/** A value in COPY's text format. */
export function copyText(type: ValueType, value: Value): string {
  if (value === null) return '\\N';
  const column = toColumn(type, value);
  if (Array.isArray(column)) return escaped(`{${column.map((key) => `"${String(key)}"`).join(',')}}`);
  if (typeof column === 'boolean') return column ? 't' : 'f';
  return escaped(String(column));
}

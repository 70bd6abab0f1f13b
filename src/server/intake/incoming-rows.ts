import type { FieldRef } from '@/core/rules';
import { firstIn, type ProblemCode } from '@/core/values';
import { run, tableOf } from '@/server/store/sql/sql';
import { type Filled, filledBy, INCOMING, type IncomingInput, type RefusedRow } from './incoming-fields';

export const REFUSED = 'pg_temp.import__refused';

/** Rows of a file beside the records, and those of them that are refused. */
export abstract class IncomingRows {
  readonly filled: readonly Filled[];

  constructor(protected readonly input: IncomingInput) {
    this.filled = filledBy(input);
  }

  /** A query of the records that the rows give a value for a field, an explicit empty included; `null` where they give none. */
  entered({ type, field }: FieldRef): string | null {
    const filled = type === this.input.type ? this.filled.find((one) => one.field.key === field) : undefined;
    if (!filled) return null;
    return `SELECT i.id FROM ${INCOMING} i${filled.clears ? '' : ` WHERE i.${filled.column} IS NOT NULL`}`;
  }

  protected get table(): string {
    return tableOf(this.input.workspace.schema, this.input.type);
  }

  protected run<T = Record<string, unknown>>(text: string, values: readonly unknown[] = []): Promise<T[]> {
    return run<T>(this.input.transaction, text, values);
  }

  /** The columns, in the order in which rows are copied. */
  get columns(): string[] {
    const given = this.filled.filter(({ isEmptied }) => !isEmptied);
    return [
      'row__line',
      'id',
      ...given.flatMap(({ column, lookup }) => lookup?.parts.map((part) => part.column) ?? [column]),
    ];
  }

  protected async numberRefused(): Promise<number> {
    const found = firstIn(
      await this.run<{ number: number }>(`SELECT count(*)::int AS number FROM ${REFUSED}`),
    );
    return found.number;
  }

  protected isSelf({ field }: Filled): boolean {
    return field.type.kind === 'link' && field.type.target === this.input.type;
  }

  protected async hasRefused(): Promise<boolean> {
    const found = firstIn(
      await this.run<{ has: boolean }>(
        `SELECT EXISTS (SELECT FROM ${REFUSED} r JOIN ${INCOMING} i ON i.row__line = r.line) AS has`,
      ),
    );
    return found.has;
  }

  /** Rows that have been refused take no part any more; why is kept. */
  protected async drop(): Promise<void> {
    await this.run(`DELETE FROM ${INCOMING} i USING ${REFUSED} r WHERE r.line = i.row__line`);
  }

  /** Adds the rows of a query (`line`, `message`) to those refused, each once for a field. */
  protected async refuse(
    field: string,
    code: ProblemCode,
    query: string,
    values: readonly unknown[] = [],
  ): Promise<void> {
    const at = values.length;
    await this.run(
      `INSERT INTO ${REFUSED} (line, field, code, message) SELECT q.line, $${at + 1}::text, $${at + 2}::text, q.message FROM (${query}) q`,
      [...values, field, code],
    );
  }

  /** What was refused, the first of them by line, and how many rows in all. */
  async refused(most: number): Promise<{ rows: RefusedRow[]; number: number }> {
    const rows = await this.run<{ line: number; field: string; code: ProblemCode; message: string }>(
      `SELECT line, field, code, message FROM ${REFUSED} ORDER BY line, field LIMIT ${most}`,
    );
    const count = firstIn(
      await this.run<{ number: number }>(`SELECT count(DISTINCT line)::int AS number FROM ${REFUSED}`),
    );
    return { rows: rows.map(({ field, ...row }) => ({ ...row, column: field })), number: count.number };
  }
}

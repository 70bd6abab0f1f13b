import { type ImportPlan } from '@/core/intake';
import { type Field, typeIn } from '@/core/model';
import {
  bad,
  certain,
  good,
  parseValue,
  type ProblemCode,
  type Result,
  type Value,
  type ValueType,
  currencyOfHeading,
  readText,
} from '@/core/values';
import { v7 as newId } from 'uuid';
import type { Tell } from '@/server/progress';
import { copyText } from '@/server/store/sql/copy-in';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import type { RefusedRow } from './incoming-fields';
import type { Filled } from './incoming-fields';
import type { FileRow } from './read-file';

/** Who a cell may name: by id, by e-mail or by name, in lower case. */
export type PeopleByWords = ReadonlyMap<string, string>;

export interface RowReaderInput {
  readonly workspace: LoadedWorkspace;
  readonly type: string;
  readonly plan: ImportPlan;
  readonly filled: readonly Filled[];
  readonly people: PeopleByWords;
  /** Most refused rows that are told one by one. */
  readonly most: number;
  readonly tell: Tell;
}

/** Rows after which it is told how many were read. */
const TOLD_AFTER = 10_000;

/** Reads rows as values, cell by cell; keeps why rows are refused, and how many. */
export class RowReader {
  readonly refused: RefusedRow[] = [];
  number = 0;
  refusedNumber = 0;
  readonly #idColumn: string | null;
  readonly #given: readonly Filled[];

  constructor(private readonly input: RowReaderInput) {
    this.#given = input.filled.filter(({ isEmptied }) => !isEmptied);
    this.#idColumn = input.plan.columns.find(({ field }) => field === 'id')?.column ?? null;
  }

  /** The rows that read well, in COPY's text format: line, id, and each filled field's value or what its link is found by. */
  async *lines(rows: AsyncIterable<FileRow>): AsyncGenerator<string> {
    for await (const row of rows) {
      this.number += 1;
      if (this.number % TOLD_AFTER === 0) this.input.tell({ stage: 'reading', rows: this.number });
      const text = this.lineOf(row);
      if (text !== null) yield text;
      else this.refusedNumber += 1;
    }
  }

  private lineOf({ line, cells, flaw }: FileRow): string | null {
    if (flaw !== undefined) return this.refuse(line, '', 'row.shape', flaw);
    const id = this.idOf(line, cells);
    let text = id === null ? null : `${line}\t${id}`;
    for (const { field, heading, lookup } of this.#given)
      for (const part of lookup?.parts ?? [{ heading, type: field.type }]) {
        const read = this.read(part.type, field, part.heading, cells[part.heading]);
        if (!read.ok) {
          text = this.refuse(line, part.heading, read.problem.code, `${field.name}: ${read.problem.message}`);
        } else if (text !== null) text += `\t${copyText(part.type, read.value)}`;
      }
    return text === null ? null : `${text}\n`;
  }

  private idOf(line: number, cells: FileRow['cells']): string | null {
    const cell = this.#idColumn === null ? null : cells[this.#idColumn];
    if (cell === null || cell === undefined || cell === '') return newId();
    const type = typeIn(this.input.workspace.model, this.input.type);
    const parsed = parseValue(
      { kind: 'link', target: type.key },
      typeof cell === 'string' ? cell.trim() : cell,
    );
    return parsed.ok
      ? (parsed.value as string)
      : this.refuse(line, certain(this.#idColumn), 'id.form', parsed.problem.message);
  }

  private read(type: ValueType, field: Field, heading: string, cell: unknown): Result<Value> {
    if (cell === null || cell === undefined) return good(null);
    const currency = type.kind === 'anyMoney' ? currencyOfHeading(heading) : undefined;
    const forms = { ...this.input.plan.forms, ...(currency ? { currency } : {}) };
    if (field.type.kind === 'person') return this.person(cell);
    if (typeof cell === 'string') {
      // JSON Lines hold values as the API has them, or as people write them.
      const parsed = this.input.plan.format === 'jsonLines' ? parseValue(type, cell) : null;
      return parsed?.ok ? parsed : readText(type, cell, forms);
    }
    const isPlain = typeof cell === 'number' && type.kind !== 'rating' && Number.isFinite(cell);
    return isPlain ? readText(type, String(cell), { ...forms, decimal: '.' }) : parseValue(type, cell);
  }

  private person(cell: unknown): Result<Value> {
    if (typeof cell === 'string' && cell.trim() === '') return good(null);
    const id = this.input.people.get(String(cell).trim().normalize('NFC').toLowerCase());
    if (id !== undefined) return good(id);
    return bad(
      'edit.person',
      `Nobody here is called “${String(cell).slice(0, 80)}”. Give the name or e-mail of a person of the workspace.`,
    );
  }

  private refuse(line: number, column: string, code: ProblemCode, message: string): null {
    if (this.refused.length < this.input.most) this.refused.push({ line, column, code, message });
    return null;
  }
}

import { type Edit, recordKey, type Row } from '@/core/engine';
import { type Transaction } from 'sequelize';
import { cachedRow } from '@/server/store/session/row-cache';
import { allOf } from '@/server/store/sql/sql';
import { readRows } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** Rows that were read ahead, and guesses at rows; both good until the first lock. */
export class ReadAhead {
  #ahead: Promise<readonly Row[]>[] = [];
  #guesses = new Map<string, Row>();

  constructor(
    private readonly workspace: LoadedWorkspace,
    private readonly transaction: Transaction,
  ) {}

  get isGuessing(): boolean {
    return this.#guesses.size > 0;
  }

  /** Where it may, takes records of edits as they were seen lately; sends for the others, without waiting. */
  look(edits: readonly Edit[], mayGuess: boolean): void {
    const unseen = edits.filter((edit) => !mayGuess || !this.guess(edit));
    for (const type of new Set(unseen.map((edit) => edit.type))) {
      const ids = unseen.filter((edit) => edit.type === type).map(({ id }) => id);
      const read = readRows(this.transaction, this.workspace, type, ids, this.workspace.epoch);
      read.catch(() => undefined); // told where it is waited for
      this.#ahead.push(read);
    }
  }

  private guess(edit: Edit): boolean {
    const row =
      edit.kind === 'edit' || edit.kind === 'delete' ? cachedRow(this.workspace, edit)?.row : undefined;
    if (!row || row.deleted || ('version' in edit && edit.version !== row.version)) return false;
    this.#guesses.set(recordKey(row), row);
    return true;
  }

  /** What is known so far, a guess before what was read. */
  async rows(): Promise<ReadonlyMap<string, Row>> {
    const ahead = (await allOf(this.#ahead)).flat();
    return new Map([...ahead.map((row) => [recordKey(row), row] as const), ...this.#guesses]);
  }

  forget(): void {
    this.#ahead = [];
    this.#guesses = new Map();
  }
}

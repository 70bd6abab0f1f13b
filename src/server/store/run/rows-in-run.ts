import { recordKey, type RecordRef, type Row, type Write, writtenRow } from '@/core/engine';
import type { Model } from '@/core/model';
import { valueAt } from '@/core/values';
import { NOTHING_BESIDE, type SeenRow } from '@/server/store/session/row-cache';
import { KeptBeside } from './kept-beside';

/** Records as a run has them: those that are locked, and those that it writes. */
export class RowsInRun {
  readonly rows = new Map<string, Row>();
  readonly beside = new KeptBeside();
  readonly #stamps = new Map<string, string>();
  readonly #written = new Set<string>();

  constructor(private readonly model: Model) {}

  lock({ row, beside, stamp }: SeenRow): void {
    const key = recordKey(row);
    this.rows.set(key, row);
    this.beside.know(row, beside);
    if (stamp !== null) this.#stamps.set(key, stamp);
  }

  /** A record of which nothing but its values is known. */
  know(row: Row): void {
    this.rows.set(recordKey(row), row);
  }

  row(ref: RecordRef): Row {
    return valueAt(this.rows, recordKey(ref));
  }

  write(writes: readonly Write[]): void {
    for (const write of writes) {
      const key = recordKey(write);
      if (write.kind === 'create') this.beside.know(write, NOTHING_BESIDE);
      this.rows.set(key, writtenRow(this.model, this.rows.get(key), write));
      this.beside.note(write);
      this.#written.add(key);
    }
  }

  /**
   * As they stand once the run is committed. `stamp`: of what it wrote, `null` where it wrote nothing; without `isAllItsOwn` something else wrote in its
   * transaction as well, so that nothing is known of any version.
   */
  seen(stamp: string | null, isAllItsOwn: boolean): SeenRow[] {
    const stampOf = (key: string) => (this.#written.has(key) ? stamp : (this.#stamps.get(key) ?? null));
    return [...this.rows].map(([key, row]) => ({
      row,
      beside: this.beside.of(row),
      stamp: isAllItsOwn ? stampOf(key) : null,
    }));
  }
}

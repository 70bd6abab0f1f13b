import { isHolderFor, type Row } from '@/core/engine';
import type { LinkRef } from '@/core/model';
import { parseValue, type Value } from '@/core/values';
import type { Transaction } from 'sequelize';
import { readHolders, readRows } from '@/server/store/sql/columns';
import { columnOf, quote, run, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import type { HoldersNeed, SnapshotReads } from '@/server/store/run/snapshot-reads';

/** What the ledger has doesn't fit the model any more: how records stood then can't be told. */
export class UnlikeModel extends Error {}

/**
 * Records as they stood before a run: what stands there now, with all that the run and later ones did taken back by the ledger. Those that weren't made
 * yet aren't there. What can't be worked out (`errors`) is as now where nothing changed since.
 */
export class WoundBack implements SnapshotReads {
  readonly #ledger: string;

  constructor(
    private readonly transaction: Transaction,
    private readonly workspace: LoadedWorkspace,
    /** The run's number. */
    private readonly before: bigint,
  ) {
    this.#ledger = `${quote(workspace.schema)}._ledger`;
  }

  async rows(type: string, ids: readonly string[]): Promise<readonly Row[]> {
    if (ids.length === 0) return [];
    const stored = await readRows(this.transaction, this.workspace, type, ids);
    const later = await run<{ id: string }>(
      this.transaction,
      `SELECT id::text FROM ${tableOf(this.workspace.schema, type)} WHERE id = ANY($1::uuid[]) AND created_run >= $2`,
      [ids, String(this.before)],
    );
    const unmade = new Set(later.map(({ id }) => id));
    const rows = new Map(stored.flatMap((row) => (unmade.has(row.id) ? [] : [[row.id, row] as const])));
    const logged = await run<Since>(
      this.transaction,
      `SELECT record::text, event, changes FROM ${this.#ledger} WHERE type = $1 AND record = ANY($2::uuid[]) AND run >= $3 ORDER BY run DESC`,
      [type, [...rows.keys()], String(this.before)],
    );
    for (const entry of logged) {
      const row = rows.get(entry.record);
      if (row) rows.set(entry.record, this.takeBack(row, entry));
    }
    return [...rows.values()];
  }

  async children(
    { type, link }: LinkRef,
    parents: readonly string[],
    limit: number,
  ): Promise<readonly Row[]> {
    const found = await run<{ id: string }>(
      this.transaction,
      `SELECT t.id::text FROM ${tableOf(this.workspace.schema, type)} t
          WHERE t.${columnOf(link)} = ANY($1::uuid[]) AND (t.deleted_run IS NULL OR t.deleted_run >= $2)
        UNION SELECT l.record::text FROM ${this.#ledger} l
          WHERE l.type = $3 AND l.run >= $2 AND l.changes -> $4 ->> 0 = ANY($1::text[]) LIMIT ${Number(limit)}`,
      [parents, String(this.before), type, link],
    );
    const named = new Set<Value>(parents);
    const rows = await this.rows(
      type,
      found.map(({ id }) => id),
    );
    return rows.filter((row) => !row.deleted && named.has(row.values[link] ?? null));
  }

  async holders(need: HoldersNeed): Promise<readonly Row[]> {
    const { type, field } = need;
    const now = await readHolders(this.transaction, this.workspace, need);
    const since = await run<{ id: string }>(
      this.transaction,
      `SELECT DISTINCT record::text AS id FROM ${this.#ledger} WHERE type = $1 AND run >= $2 AND (changes ? $3 OR event <> 'changed')`,
      [type, String(this.before), field],
    );
    const ids = new Set([...now, ...since].map(({ id }) => id));
    return (await this.rows(type, [...ids])).filter(isHolderFor(need));
  }

  async all(type: string, limit: number): Promise<readonly string[]> {
    const found = await run<{ id: string }>(
      this.transaction,
      `SELECT id::text FROM ${tableOf(this.workspace.schema, type)}
        WHERE created_run < $1 AND (deleted_run IS NULL OR deleted_run >= $1) LIMIT ${Number(limit)}`,
      [String(this.before)],
    );
    return found.map(({ id }) => id);
  }

  private takeBack(row: Row, { event, changes }: Since): Row {
    const values: Record<string, Value> = { ...row.values };
    const errors = { ...row.errors };
    for (const [key, [was]] of Object.entries(changes)) {
      const field = this.workspace.model.field(row.type, key);
      if (!field) continue; // removed from the model since: no rule of now reads it
      const parsed = parseValue(field.type, was);
      if (!parsed.ok) throw new UnlikeModel();
      values[key] = parsed.value;
      delete errors[key];
    }
    const deleted = event === 'changed' ? row.deleted : event === 'restored';
    return { ...row, values, errors, deleted };
  }
}

interface Since {
  readonly record: string;
  readonly event: 'changed' | 'deleted' | 'restored';
  readonly changes: Readonly<Record<string, readonly [unknown, unknown]>>;
}

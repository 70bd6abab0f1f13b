import type { Need, Row } from '@/core/engine';
import type { LinkRef } from '@/core/model';
import type { Transaction } from 'sequelize';
import { readChildren, readHolders, readRows } from '@/server/store/sql/columns';
import { run, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** Records as a rehearsal takes them. */
export interface SnapshotReads {
  /** By id, deleted ones included. */
  rows(type: string, ids: readonly string[]): Promise<readonly Row[]>;
  /** Those, not deleted, whose link names one of the parents; at least as many as the limit where there are more. */
  children(link: LinkRef, parents: readonly string[], limit: number): Promise<readonly Row[]>;
  /** Those, not deleted, that have one of the values in a field. */
  holders(need: HoldersNeed): Promise<readonly Row[]>;
  /** Ids of all of a type that aren't deleted; at least as many as the limit where there are more. */
  all(type: string, limit: number): Promise<readonly string[]>;
}

export type HoldersNeed = Extract<Need, { kind: 'holders' }>;

/** As one snapshot of the database shows them. */
export const readsNow = (transaction: Transaction, workspace: LoadedWorkspace): SnapshotReads => ({
  rows: (type, ids) => readRows(transaction, workspace, type, ids),
  children: ({ type, link }, parents, limit) =>
    readChildren(transaction, workspace, type, link, parents, limit),
  holders: (need) => readHolders(transaction, workspace, need),
  all: async (type, limit) => {
    const text = `SELECT id::text FROM ${tableOf(workspace.schema, type)} WHERE deleted_run IS NULL LIMIT ${limit}`;
    return (await run<{ id: string }>(transaction, text)).map(({ id }) => id);
  },
});

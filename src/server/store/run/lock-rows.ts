import { type Claim } from '@/core/engine';
import { type Accumulator, isKeptByDifference, isKeptByExtremum } from '@/core/rules';
import { type Transaction } from 'sequelize';
import { Binds, idsAmong, once, runHot, tableOf } from '@/server/store/sql/sql';
import { keptFrom, keptReads, extremumReads, rowColumns, rowFrom } from '@/server/store/sql/columns';
import { stampOf } from '@/server/store/sql/row-stamp';
import type { SeenRow } from '@/server/store/session/row-cache';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** A lock that should have been taken before one that is held: the run starts again with what it learnt. */
export class LockOrderMissed extends Error {
  constructor(readonly claims: readonly Claim[]) {
    super('A run needs a lock out of order');
  }
}

/** Locks records of a type, in order of their ids, as strongly as the strongest claim asks, and reads them. */
export const lockRows = (
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: string,
  claims: readonly Claim[],
): Promise<SeenRow[]> => {
  const ids = claims.map(({ id }) => id);
  return readSeen(transaction, workspace, { type, ids, locking: lockingSql(claims) });
};

/** Locks the records `t` of one type in the order of their ids. */
export const lockingSql = (claims: readonly Claim[]): string =>
  `ORDER BY t.id ${claims.some(({ strength }) => strength === 'write') ? 'FOR NO KEY UPDATE' : 'FOR SHARE'} OF t`;

interface Sought {
  readonly type: string;
  readonly ids: readonly string[];
  readonly locking?: string;
}

/** Records with what is kept beside their values, and the versions that these are of. */
export async function readSeen(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { type, ids, locking = '' }: Sought,
): Promise<SeenRow[]> {
  const on = workspace.plan.rules.filter((rule) => rule.writes.type === type);
  const [differing, led] = [on.filter(isKeptByDifference), on.filter(isKeptByExtremum)];
  const read = once(
    workspace,
    `lock ${type}`,
    () =>
      `SELECT ${rowColumns(workspace, type, 't')}${keptReads(differing, 't')}${extremumReads(led, 't')}, ${stampOf('t')} AS stamp FROM ${tableOf(workspace.schema, type)} t`,
  );
  const binds = new Binds();
  const text = `${read} WHERE ${idsAmong('t.id', ids, binds)} ${locking}`;
  const found = await runHot(transaction, workspace.epoch, text, binds.values);
  return found.map((columns) => {
    const row = rowFrom(workspace, type, columns);
    const accumulators = new Map<string, Accumulator>();
    for (const [at, { writes }] of differing.entries()) {
      const kept = keptFrom(columns, at);
      if (kept) accumulators.set(writes.field, kept);
    }
    const leaders = new Map<string, string>();
    for (const [at, { writes }] of led.entries()) {
      const leader = (columns.leaders as readonly unknown[])[at];
      if (typeof leader === 'string') leaders.set(writes.field, leader);
    }
    return { row, beside: { accumulators, leaders }, stamp: columns.stamp as string };
  });
}

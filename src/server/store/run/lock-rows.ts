import { cellKey, type Claim, type Row } from '@/core/engine';
import { type Accumulator, isKeptByDifference, isKeptByExtremum } from '@/core/rules';
import { type Transaction } from 'sequelize';
import { once, runHot, tableOf } from '@/server/store/sql/sql';
import { keptFrom, keptReads, extremumReads, rowColumns, rowFrom } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** A lock that should have been taken before one that is held: the run starts again with what it learnt. */
export class LockOrderMissed extends Error {
  constructor(readonly claims: readonly Claim[]) {
    super('A run needs a lock out of order');
  }
}

/** A record as it stands once it is locked, with what is kept beside its values. */
export interface LockedRow {
  readonly row: Row;
  /** By cell. */
  readonly kept: readonly (readonly [string, Accumulator])[];
  /** Which child leads, by cell. */
  readonly leaders: readonly (readonly [string, string])[];
}

/** Locks records of a type, in order of their ids, as strongly as the strongest claim asks, and reads them. */
export async function lockRows(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: string,
  claims: readonly Claim[],
): Promise<LockedRow[]> {
  const strength = claims.some((claim) => claim.strength === 'write') ? 'FOR NO KEY UPDATE' : 'FOR SHARE';
  const on = workspace.plan.rules.filter((rule) => rule.writes.type === type);
  const [differing, led] = [on.filter(isKeptByDifference), on.filter(isKeptByExtremum)];
  const text = once(
    workspace,
    `lock ${type} ${strength}`,
    () => `SELECT ${rowColumns(workspace, type, 't')}${keptReads(differing, 't')}${extremumReads(led, 't')} FROM ${tableOf(workspace.schema, type)} t
        WHERE t.id = ANY($1::uuid[]) ORDER BY t.id ${strength} OF t`,
  );
  const found = await runHot(transaction, workspace.epoch, text, [claims.map((claim) => claim.id)]);
  return found.map((columns) => {
    const row = rowFrom(workspace, type, columns);
    return {
      row,
      kept: differing.flatMap((rule, at) => {
        const kept = keptFrom(columns, at);
        return kept ? [[cellKey({ ...rule.writes, id: row.id }), kept] as const] : [];
      }),
      leaders: led.flatMap(({ writes }, at) => {
        const leader = (columns.leaders as readonly unknown[])[at];
        return typeof leader === 'string' ? [[cellKey({ ...writes, id: row.id }), leader] as const] : [];
      }),
    };
  });
}

import { type Filled, mayActOnStanding } from '@/core/engine';
import type { ReactingCascade } from '@/core/rules';
import { columnOf, tableOf } from '@/server/store/sql/sql';
import { recomputeAfter, type RecomputeInput } from './recompute-after';

/**
 * Whether a rule that cascades can also act at once on records as they stand: one of its tests says what a field becomes, or that it changes,
 * and what it cascades isn't what was there before.
 */
export const actsOnStanding = (parts: readonly ReactingCascade[]): boolean => parts.some(mayActOnStanding);

/**
 * Cascades from every record that stands as if it had just come to what the rule watches: a field that a test says it becomes is that, or one
 * that it says changes holds something. All that follows from it is worked out, too. Nobody else saves meanwhile.
 */
export async function cascadeNow({
  transaction,
  workspace,
  run,
  parts,
  isEveryPace = false,
}: Pick<RecomputeInput, 'transaction' | 'workspace' | 'run' | 'isEveryPace'> & {
  readonly parts: readonly ReactingCascade[];
}): Promise<readonly Filled[]> {
  const [first] = parts;
  if (!first || !actsOnStanding(parts)) return [];
  const { type } = first.writes;
  const changed = `FROM ${tableOf(workspace.schema, type)} WHERE changed_run = ${BigInt(run)}`;
  return recomputeAfter({
    ...{ transaction, workspace, run, isEveryPace, standing: first.id },
    written: { type, parents: (link) => `SELECT DISTINCT ${columnOf(link)} ${changed}` },
  });
}

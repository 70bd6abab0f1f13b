import { WritePrecedence, type Touched } from '@/core/engine';
import type { ReactingCascade } from '@/core/rules';
import { sameValue, type Value, itemAt } from '@/core/values';
import { recomputeAfter, type RecomputeInput } from './recompute-after';
import { type Filled } from './types';
import { type BulkCascade, bulkCascade, type Page } from './bulk-cascade';
import { columnOf, run, tableOf } from '@/server/store/sql/sql';
import { readRows } from '@/server/store/sql/columns';

/**
 * Whether a rule that cascades can also act at once on records as they stand: one of its tests says what a field becomes, or that it changes,
 * and what it cascades isn't what was there before.
 */
export const actsOnStanding = (parts: readonly ReactingCascade[]): boolean =>
  contributionOf(parts).length > 0;

const contributionOf = (parts: readonly ReactingCascade[]): ReactingCascade[] =>
  parts.filter(
    ({ moment, value }) =>
      moment.kind === 'onChange' &&
      moment.tests.some(({ kind }) => kind === 'changed' || kind === 'became') &&
      !(value.kind === 'worked' && value.isBefore),
  );

/**
 * Cascades from every record that stands as if it had just come to what the rule watches: a field that a test says it becomes is that, or one
 * that it says changes holds something. All that follows from it is worked out, too. Nobody else saves meanwhile.
 */
export async function cascadeNow(
  input: Omit<BulkCascade, 'writePrecedence' | 'touched'> & Pick<RecomputeInput, 'isEveryPace'>,
): Promise<Filled[]> {
  const { transaction, workspace, run: runId } = input;
  const parts = contributionOf(input.parts);
  const [first] = parts;
  if (!first) return [];
  const counts = await bulkCascade({
    ...{ ...input, parts, writePrecedence: new WritePrecedence([], () => false) },
    touched: (page) => standing(input, first, page),
  });
  const { type } = first.writes;
  const changed = `FROM ${tableOf(workspace.schema, type)} WHERE changed_run = ${BigInt(runId)}`;
  const followed = await recomputeAfter({
    ...{ transaction, workspace, run: runId, done: first.id, isEveryPace: input.isEveryPace === true },
    written: { type, parents: (link) => `SELECT DISTINCT ${columnOf(link)} ${changed}` },
  });
  return [...parts.map((rule, at) => ({ rule, records: itemAt(counts, at) })), ...followed];
}

/** A page of the records that cascade, as if the watched fields had just been filled. */
async function standing(
  { transaction, workspace }: Pick<BulkCascade, 'transaction' | 'workspace'>,
  { source, moment }: ReactingCascade,
  { after, most }: Page,
): Promise<Touched[]> {
  const found = await run<{ id: string }>(
    transaction,
    `SELECT id::text FROM ${tableOf(workspace.schema, source)} WHERE deleted_run IS NULL AND id::text > $1 ORDER BY id::text LIMIT ${most}`,
    [after],
  );
  const rows = await readRows(
    transaction,
    workspace,
    source,
    found.map(({ id }) => id),
  );
  const tests = moment.kind === 'onChange' ? moment.tests : [];
  return rows
    .sort((a, b) => (a.id < b.id ? -1 : 1))
    .map((row): Touched => {
      const filled = tests.flatMap((test) => {
        const value: Value = row.values[test.field.key] ?? null;
        const isNow = test.kind === 'became' ? sameValue(value, test.value) : test.kind === 'changed';
        return isNow && value !== null ? [test.field.key] : [];
      });
      const emptied = Object.fromEntries(filled.map((key) => [key, null]));
      const before = { ...row, values: { ...row.values, ...emptied } };
      return { type: source, id: row.id, fields: new Set(filled), before, after: row };
    });
}

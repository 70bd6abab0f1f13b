import { firstIn } from '@/core/values';
import type { RunContext } from '@/core/expression';
import { usesRunContext } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { quote, readColumn, run } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** Of a run that begins now. Its row in the ledger has the same moment (`RunInfo.at`). */
export const runContextNow = (person: string | null): RunContext => ({
  person,
  moment: new Date().toISOString(),
});

/** Of a run that is written already, for what goes on in it; `null` where no live rule reads them. */
export async function contextOfRun(
  transaction: Transaction,
  { schema, plan }: Pick<LoadedWorkspace, 'schema' | 'plan'>,
  id: string,
): Promise<RunContext | null> {
  if (!plan.turns.some(usesRunContext)) return null;
  const moment = readColumn({ kind: 'dateTime' }, 'at');
  const text = `SELECT person::text, ${moment} AS moment FROM ${quote(schema)}._run WHERE id = $1`;
  const found = firstIn(await run<{ person: string | null; moment: string }>(transaction, text, [id]));
  return found;
}

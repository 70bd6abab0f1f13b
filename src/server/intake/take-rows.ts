import type { ImportPlan } from '@/core/intake';
import type { ImportView, RefusedRowView } from '@/core/api';
import { untold } from '@/server/progress';
import { recomputeAfter } from '@/server/store/bulk/recompute-after';
import { columnOf, tableOf } from '@/server/store/sql/sql';
import { effectsOf, type Working } from './effects';
import { SHADOW_RUN } from './shadow';
import { Incoming } from './incoming';
import type { RefusedRow } from './incoming-fields';
import { INCOMING } from './incoming-fields';
import { ALTERED, Taken } from './take-in';

/** Most refused rows that are told one by one: of a file enough to correct it, of a list as many as anybody reads. */
export const MOST_REFUSED = { file: 10_000, list: 200 } as const;
/** Most records and changes that are. */
const MOST_SAMPLES = 20;

/** How many rows there were, and which of them couldn't be read. */
export interface RowsRead {
  readonly number: number;
  readonly refusedNumber: number;
  readonly refused: readonly RefusedRow[];
}

/** Which records rows make or change, and how. */
export interface RowsInput {
  readonly type: string;
  readonly plan: ImportPlan;
  readonly most: number;
}

/** Takes rows in, wherever they come from: settles what becomes of each, writes them, and works rules out after them. */
export async function takeRows(
  working: Working,
  { type, plan, most }: RowsInput,
  read: (incoming: Incoming) => Promise<RowsRead>,
): Promise<ImportView> {
  const { transaction, workspace } = working;
  const incoming = new Incoming({ transaction, workspace, type, plan });
  await incoming.make();
  return settleRows(working, incoming, { type, plan, most }, await read(incoming));
}

/** The same for rows that have been read. */
export async function settleRows(
  working: Working,
  incoming: Incoming,
  { type, most }: RowsInput,
  rows: RowsRead,
): Promise<ImportView> {
  const { transaction, workspace, runId, tell = untold } = working;
  tell({ stage: 'checking' });
  await incoming.settle();
  const refused = await incoming.refused(most);
  const refusals = [...rows.refused, ...refused.rows]
    .sort((a, b) => a.line - b.line)
    .slice(0, most)
    .map(({ line, column, message }): RefusedRowView => ({ line, column, message }));
  tell({ stage: 'writing' });
  const taken = new Taken({ transaction, workspace, type, run: runId }, incoming.filled);
  const counts = await taken.write();
  const samples = await taken.samples(MOST_SAMPLES);
  const table = tableOf(workspace.schema, type);
  const filled = await recomputeAfter({
    ...{ transaction, workspace, run: runId, tell, isEveryPace: runId === SHADOW_RUN },
    written: {
      type,
      // The parents that the rows name, and those that changed records named before.
      parents: (link) => `SELECT t.${columnOf(link)} FROM ${table} t JOIN ${INCOMING} i ON i.id = t.id
        UNION SELECT a.${columnOf(link)} FROM ${ALTERED} a`,
    },
    entered: (ref) => incoming.entered(ref),
  });
  const effects = await effectsOf(working, filled);
  return {
    ...{ read: rows.number, ...counts, refused: rows.refusedNumber + refused.number, refusals },
    ...{ samples, effects, run: null },
  };
}

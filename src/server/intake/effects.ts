import { fieldIn, typeIn } from '@/core/model';
import { type CompiledCreate, isCreate } from '@/core/rules';
import { parseValue } from '@/core/values';
import { valueView } from '@/core/verify';
import { type ImportEffect } from '@/core/api';
import type { Transaction } from 'sequelize';
import type { Filled } from '@/core/engine';
import type { Tell } from '@/server/progress';
import { namesOf } from '@/server/store/sets/distribution';
import { columnOf, quote, run, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

const MOST_SHOWN = 5;

/** A run of many records under way, saved or rehearsed. */
export interface Working {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly runId: string;
  readonly tell?: Tell;
}

/** What rules wrote after many records were, with some of the records that were there before. */
export async function effectsOf(
  working: Working,
  filled: readonly Filled[],
  most = MOST_SHOWN,
): Promise<ImportEffect[]> {
  const effects: ImportEffect[] = [];
  for (const one of filled) effects.push(await effectOf(working, one, most));
  return effects;
}

const madeBy = (
  { model }: LoadedWorkspace,
  { id, name, makes }: CompiledCreate,
  records: number,
): ImportEffect => ({
  ...{ rule: { id, name }, type: makes, typeName: typeIn(model, makes).name, fieldName: null, records },
  samples: [],
});

async function effectOf(
  { transaction, workspace, runId }: Working,
  { rule, records }: Filled,
  most: number,
): Promise<ImportEffect> {
  if (isCreate(rule)) return madeBy(workspace, rule, records);
  const { type, field } = rule.writes;
  const recordType = typeIn(workspace.model, type);
  const { type: valueType, name } = fieldIn(workspace.model, type, field);
  const found = await run<{ id: string; title: string; change: [unknown, unknown] }>(
    transaction,
    `SELECT l.record::text AS id, t.${columnOf(recordType.title)} AS title, l.changes -> $3 AS change
      FROM ${quote(workspace.schema)}._ledger l JOIN ${tableOf(workspace.schema, type)} t ON t.id = l.record
      WHERE l.run = $1 AND l.type = $2 AND l.changes ? $3 ORDER BY title, l.record LIMIT ${most}`,
    [runId, type, field],
  );
  const valueOf = (wire: unknown) => {
    const parsed = parseValue(valueType, wire);
    return parsed.ok ? parsed.value : null;
  };
  const samples = found.map(({ id, title, change: [before, after] }) => ({
    ...{ id, title, before: valueOf(before), after: valueOf(after) },
  }));
  const values = samples.flatMap(({ before, after }) => [before, after]);
  const nameOf = await namesOf(transaction, workspace, valueType, values);
  return {
    ...{ rule: { id: rule.id, name: rule.name }, type, typeName: recordType.name, fieldName: name, records },
    samples: samples.map(({ id, title, before, after }) => ({
      ...{ id, title },
      before: valueView(valueType, before, nameOf),
      after: valueView(valueType, after, nameOf),
    })),
  };
}

import { typeIn } from '@/core/model';
import type { Transaction } from 'sequelize';
import { columnOf, run, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from './workspace';

/** Ids of records whose titles are wanted, by type. */
export class Wanted {
  readonly ids = new Map<string, Set<string>>();

  add(type: string, id: unknown): void {
    if (typeof id === 'string') this.ids.set(type, (this.ids.get(type) ?? new Set()).add(id));
  }
}

/** Titles by id, one statement for each type; deleted records have theirs too. */
export async function readTitles(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  wanted: Wanted,
): Promise<Record<string, string>> {
  const titles: Record<string, string> = {};
  for (const [type, ids] of wanted.ids) {
    if (!model.type(type)) continue; // removed from the model since
    const text = `SELECT id::text, ${columnOf(typeIn(model, type).title)} AS title FROM ${tableOf(schema, type)} t WHERE id = ANY($1::uuid[])`;
    for (const row of await run<{ id: string; title: string }>(transaction, text, [[...ids]]))
      titles[row.id] = row.title;
  }
  return titles;
}

import { typeIn } from '@/core/model';
import { recordToWire } from '@/core/verify';
import { database } from '@/server/database/connection';
import { quote, run } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import type { TestWorkspace } from './workspace';

interface Logged {
  type: string;
  record: string;
  run: string;
  changes: Record<string, [unknown, unknown]>;
}

/**
 * What is wrong with a ledger: an entry whose *before* isn't what the entry before it left, a last entry that isn't what
 * stands there now, a run without a row. Empty when every change is there, once and in order.
 */
export async function ledgerFlaws(workspace: TestWorkspace): Promise<string[]> {
  const loaded: LoadedWorkspace = await workspace.load();
  const s = quote(loaded.schema);
  const logged = await database().transaction((transaction) =>
    run<Logged>(
      transaction,
      `SELECT type, record::text, run::text, changes FROM ${s}._ledger l ORDER BY l.run`,
    ),
  );
  const last = new Map<string, unknown>();
  const flaws: string[] = [];
  for (const { type, record, run: number, changes } of logged) {
    for (const [field, [before, after]] of Object.entries(changes)) {
      const key = `${type} ${record} ${field}`;
      const known = last.get(key);
      if (last.has(key) && JSON.stringify(known) !== JSON.stringify(before))
        flaws.push(
          `run ${number}: ${key} was ${JSON.stringify(known)}, the ledger says ${JSON.stringify(before)}`,
        );
      last.set(key, after);
    }
  }
  for (const row of await workspace.rows()) {
    const { values } = recordToWire(loaded.model, row);
    for (const { key: field } of typeIn(loaded.model, row.type).fields) {
      const key = `${row.type} ${row.id} ${field}`;
      if (last.has(key) && JSON.stringify(last.get(key)) !== JSON.stringify(values[field]))
        flaws.push(
          `${key} is ${JSON.stringify(values[field])}, the ledger ends with ${JSON.stringify(last.get(key))}`,
        );
    }
  }
  return flaws;
}

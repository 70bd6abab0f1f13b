import type { Row } from '@/core/engine';
import { type Model, typeIn } from '@/core/model';
import type { Rule } from '@/core/rules';
import { valueAt } from '@/core/values';
import { v7 as newId } from 'uuid';
import { begin, makeWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { database } from '@/server/database/connection';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';
import { loadRows } from '@/server/store/schema/load-rows';
import { inInstallation, inSnapshot } from '@/server/store/session/transactions';
import { rowColumns, rowFrom } from '@/server/store/sql/columns';
import { quote, run, tableOf } from '@/server/store/sql/sql';
import { TESTER } from './tester';
import {
  forgetWorkspace,
  type LoadedWorkspace,
  loadWorkspace,
  reloadWorkspace,
} from '@/server/store/session/workspace';

export { TESTER };

export interface TestWorkspace {
  readonly key: string;
  /** Ids of the rules as they were stored, in the order in which they were given. */
  readonly rules: readonly string[];
  load(): Promise<LoadedWorkspace>;
  rows(): Promise<Row[]>;
  /** Every record of another workspace, such as a copy of this one. */
  rowsOf(key: string): Promise<Row[]>;
  remove(): Promise<void>;
}

interface Given {
  readonly model: Model;
  readonly rows: readonly Row[];
  readonly rules: readonly Rule[];
}

let number = 0;

/** A workspace of its own for one test, with rows whose kept values the rules fill as they are taken live one by one. */
export async function testWorkspace(
  given: Given,
  /** Where one is taken from and given back to; left out, it is made and removed. */
  among?: Idle,
): Promise<TestWorkspace> {
  const ofGiven = {
    timeZone: 'Europe/London',
    settledDay: given.model.settledDay ?? '2026-03-14',
    model: { types: given.model.types, selections: given.model.selections ?? [] },
  };
  const key = among?.take() ?? `test-${process.pid}-${(number += 1)}`;
  const remove = () => (among ? among.giveBack(key) : removeWorkspace(key));
  if (among?.isKnown(key)) await among.beginAgain(key, ofGiven);
  else await makeWorkspace({ key, name: key, ...ofGiven, people: [TESTER] });
  await loadRows(await reloadWorkspace(key), given.rows, TESTER.id);
  const rules: string[] = [];
  try {
    for (const { name, definition, pilot } of given.rules) {
      const id = await createRule({ workspace: key, person: TESTER.id, name, definition });
      await changeState({ workspace: key, person: TESTER.id, id, state: 'live', pilot });
      rules.push(id);
    }
  } catch (error) {
    await remove();
    throw error;
  }
  return {
    key,
    rules,
    load: () => loadWorkspace(key),
    rows: () => allRows(key),
    rowsOf: allRows,
    remove,
  };
}

/** Cases after which connections are made anew. */
const RETIRES = 50;

/** What of Sequelize's pool ends the connections that nobody uses. */
interface Retiring {
  readonly connectionManager: { readonly pool: { destroyAllNow(): Promise<void> } };
}

/**
 * Workspaces that tests are done with, for tests of very many of them: emptied and begun anew with another model, of which only the record types'
 * tables are made. That takes a third of the time of making and removing one.
 */
export class Idle {
  readonly #idle: string[] = [];
  readonly #epochs = new Map<string, number>();
  #cases = 0;

  take(): string | undefined {
    return this.#idle.pop();
  }

  isKnown(key: string): boolean {
    return this.#epochs.has(key);
  }

  giveBack(key: string): Promise<void> {
    // No epoch comes twice: statements are prepared by it.
    this.#epochs.set(key, (this.#epochs.get(key) ?? 0) + 1_000);
    this.#idle.push(key);
    return Promise.resolve();
  }

  async beginAgain(key: string, anew: Parameters<typeof begin>[2]): Promise<void> {
    // A connection keeps a plan for each foreign key of each table that there was, and goes through all of them whenever a table comes or goes.
    this.#cases += 1;
    if (this.#cases % RETIRES === 0)
      await (database() as unknown as Retiring).connectionManager.pool.destroyAllNow();
    const { schema } = await loadWorkspace(key);
    await inInstallation(async (transaction) => {
      const tables = await run<{ name: string }>(
        transaction,
        `SELECT relname AS name FROM pg_class WHERE relnamespace = $1::regnamespace AND relkind = 'r' AND relname <> '_migration'`,
        [quote(schema)],
      );
      const named = (isOwn: boolean) =>
        tables
          .filter(({ name }) => name.startsWith('_') === isOwn)
          .map(({ name }) => `${quote(schema)}.${quote(name)}`);
      // Quicker than TRUNCATE where little or nothing is in them; without triggers, so in any order.
      const emptied = named(true).map((table) => `DELETE FROM ${table}`);
      await run(
        transaction,
        [
          `DROP TABLE ${named(false).join(', ')} CASCADE`,
          'SET LOCAL session_replication_role = replica',
          ...emptied,
          'SET LOCAL session_replication_role = origin',
        ].join('; '),
      );
      await begin(transaction, schema, anew, valueAt(this.#epochs, key));
    });
    forgetWorkspace(key);
  }

  async remove(): Promise<void> {
    for (const key of this.#idle) await removeWorkspace(key);
  }
}

async function allRows(key: string): Promise<Row[]> {
  const workspace = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const rows: Row[] = [];
    for (const { key: type } of workspace.model.types) {
      const found = await run(
        transaction,
        `SELECT ${rowColumns(workspace, typeIn(workspace.model, type).key, 't')} FROM ${tableOf(workspace.schema, type)} t`,
      );
      rows.push(...found.map((row) => rowFrom(workspace, type, row)));
    }
    return rows;
  });
}

export const anId = (): string => newId();

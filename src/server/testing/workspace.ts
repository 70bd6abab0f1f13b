import type { Row } from '@/core/engine';
import { type Model, typeIn } from '@/core/model';
import type { Rule } from '@/core/rules';
import { v7 as newId } from 'uuid';
import { makeWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';
import { loadRows } from '@/server/store/schema/load-rows';
import { inSnapshot } from '@/server/store/session/transactions';
import { rowColumns, rowFrom } from '@/server/store/sql/columns';
import { run, tableOf } from '@/server/store/sql/sql';
import { TESTER } from './tester';
import { type LoadedWorkspace, loadWorkspace, reloadWorkspace } from '@/server/store/session/workspace';

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

let number = 0;

/** A workspace of its own for one test, with rows whose kept values the rules fill as they are taken live one by one. */
export async function testWorkspace(given: {
  model: Model;
  rows: readonly Row[];
  rules: readonly Rule[];
}): Promise<TestWorkspace> {
  number += 1;
  const key = `test-${process.pid}-${number}`;
  await makeWorkspace({
    key,
    name: key,
    timeZone: 'Europe/London',
    settledDay: given.model.settledDay ?? '2026-03-14',
    model: { types: given.model.types, selections: given.model.selections ?? [] },
    people: [TESTER],
  });
  await loadRows(await reloadWorkspace(key), given.rows, TESTER.id);
  const rules: string[] = [];
  try {
    for (const { name, definition, pilot } of given.rules) {
      const id = await createRule({ workspace: key, person: TESTER.id, name, definition });
      await changeState({ workspace: key, person: TESTER.id, id, state: 'live', pilot });
      rules.push(id);
    }
  } catch (error) {
    await removeWorkspace(key);
    throw error;
  }
  return {
    key,
    rules,
    load: () => loadWorkspace(key),
    rows: () => allRows(key),
    rowsOf: allRows,
    remove: () => removeWorkspace(key),
  };
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

import { firstIn, type Value, PLAIN_FORMS, writeCount } from '@/core/values';
import { readEdits } from '@/core/engine';
import { type ImportPlan } from '@/core/intake';
import { fieldIn, typeIn } from '@/core/model';
import type { ImportView } from '@/core/api';
import { v7 as newId } from 'uuid';
import type { Working } from '@/server/intake/effects';
import { type Incoming } from '@/server/intake/incoming';
import { INCOMING } from '@/server/intake/incoming-fields';
import { shadowOf, SHADOW_RUN } from '@/server/intake/shadow';
import { MOST_REFUSED, takeRows } from '@/server/intake/take-rows';
import { untold } from '@/server/progress';
import { listSql } from '@/server/queries/records/list-records';
import { checkType } from '@/server/queries/records/records';
import { refuse, Refusal, type RefusedPart } from '@/server/refusal';
import { insertRun } from '@/server/store/write/run-row';
import { Binds, bindType, columnOf, quote, run, tableOf } from '@/server/store/sql/sql';
import { withExclusiveLock, inRehearsal } from '@/server/store/session/transactions';
import { toColumn } from '@/server/store/sql/columns';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { checkPerson } from '@/server/queries/workspaces/people';
import type { ListEditInput, SavedListEdit } from '@/server/forms/types';

/**
 * What giving all records of a list the same values would do, however many they are: worked out by the statements that would save
 * it, on temporary copies. Locks no record and saves nothing.
 */
export async function rehearseListEdit(input: ListEditInput): Promise<ImportView> {
  const known = await loadWorkspace(input.workspace);
  checkPerson(known, input.person);
  return inRehearsal(known, async (transaction, workspace) => {
    const values = readValues(workspace, input);
    const shadow = await shadowOf(transaction, workspace, { types: [input.type], person: input.person });
    return editAll(
      { transaction, workspace: shadow, runId: SHADOW_RUN, tell: input.tell ?? untold },
      input,
      values,
    );
  });
}

/** Does it as one run, which can be undone: all of them, or none where one of them can't have these values. */
export function editList(input: SavedListEdit): Promise<ImportView> {
  return withExclusiveLock(input.workspace, async ({ workspace, transaction }) => {
    checkPerson(workspace, input.person);
    const values = readValues(workspace, input);
    const info = { kind: 'listEdit', person: input.person, note: input.note ?? '' } as const;
    const runId = await insertRun(transaction, workspace.schema, info);
    const view = await editAll({ transaction, workspace, runId, tell: input.tell ?? untold }, input, values);
    if (view.refused > 0) throw refusedRecords(view);
    if (view.changed !== input.expected) throw otherThan(input.expected, view.changed);
    return { ...view, run: runId };
  });
}

/** The values as an edit of any record would have them. */
function readValues(
  { model, plan, people }: LoadedWorkspace,
  { type, values }: ListEditInput,
): Readonly<Record<string, Value>> {
  checkType(model, type);
  const edit = { kind: 'edit', type, id: newId(), values } as const;
  const read = readEdits({ model, plan, edits: [edit], people, newId });
  if (!read.ok) throw refuse(422, read.problems);
  const [made] = read.edits;
  if (made?.kind !== 'edit' || Object.keys(made.values).length === 0)
    throw new Refusal(422, 'list.values', 'No field is given a value. Say which field is to have what.');
  return made.values;
}

async function editAll(
  working: Working,
  input: ListEditInput,
  values: Readonly<Record<string, Value>>,
): Promise<ImportView> {
  const { transaction, workspace } = working;
  const plan: ImportPlan = {
    ...{ format: 'jsonLines', encoding: 'utf-8', separator: ',', forms: PLAIN_FORMS, key: [] },
    columns: Object.keys(values).map((field) => ({
      ...{ column: fieldIn(workspace.model, input.type, field).name, field, foundBy: 'id', clears: true },
    })),
    refused: 'stop',
  };
  const view = await takeRows(
    working,
    { type: input.type, plan, most: MOST_REFUSED.list },
    async (incoming) => ({
      ...{ number: await listed(working, input, incoming, values), refusedNumber: 0, refused: [] },
    }),
  );
  // Rows of a list have no lines that anybody knows: they are told by their titles.
  const { title } = typeIn(workspace.model, input.type);
  const lines = view.refusals.map(({ line }) => line);
  const named = await run<{ line: number; title: string }>(
    transaction,
    `SELECT l.line, t.${columnOf(title)} AS title FROM pg_temp.import__listed l
      JOIN ${tableOf(workspace.schema, input.type)} t ON t.id = l.id WHERE l.line = ANY($1::int[])`,
    [lines],
  );
  const titles = new Map(named.map((one) => [one.line, one.title]));
  return {
    ...view,
    refusals: view.refusals.map((one) => ({ ...one, message: `${titles.get(one.line)}: ${one.message}` })),
  };
}

/** Puts every record of the list among the incoming rows, with the values. Answers how many there are. */
async function listed(
  { transaction, workspace }: Working,
  { type, search, condition }: ListEditInput,
  incoming: Incoming,
  values: Readonly<Record<string, Value>>,
): Promise<number> {
  const binds = new Binds();
  const given = incoming.filled.map(({ field, column }) => ({
    column: quote(column),
    value: binds.add(toColumn(field.type, values[field.key] ?? null), bindType(field.type)),
  }));
  const list = listSql(
    workspace,
    { type, filter: {}, ...(search ? { search } : {}), ...(condition ? { condition } : {}) },
    binds,
  );
  await run(
    transaction,
    `INSERT INTO ${INCOMING} (row__line, id, row__is_new, ${given.map(({ column }) => column).join(', ')})
      SELECT row_number() OVER (ORDER BY t.id)::int, t.id, false, ${given.map(({ value }) => value).join(', ')} ${list}`,
    binds.values,
  );
  await run(
    transaction,
    `CREATE TEMPORARY TABLE import__listed ON COMMIT DROP AS SELECT row__line AS line, id FROM ${INCOMING}`,
  );
  const found = firstIn(
    await run<{ number: number }>(transaction, 'SELECT count(*)::int AS number FROM pg_temp.import__listed'),
  );
  return found.number;
}

function refusedRecords({ refused, refusals }: ImportView): Refusal {
  const records = `${writeCount(refused)} ${refused === 1 ? 'record' : 'records'}`;
  const message = `${records} can’t have these values, so nothing was saved. ${firstIn(refusals).message}`;
  const parts = refusals.map(({ message: why }): RefusedPart => ({ code: 'list.record', message: why }));
  return new Refusal(422, 'list.refused', message, parts, { refused });
}

const otherThan = (expected: number, changed: number): Refusal =>
  new Refusal(
    409,
    'list.moved',
    `The list isn’t what it was: ${writeCount(changed)} records would change now, not ${writeCount(expected)}. Nothing was saved; look again at what it would do.`,
    [],
    { expected, changed },
  );

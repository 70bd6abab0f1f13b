import { firstIn, type Problem } from '@/core/values';
import { typeCondition } from '@/core/expression';
import type { Model, SavedListDefinition } from '@/core/model';
import type { SavedListView } from '@/core/api';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { refuse, Refusal } from '@/server/refusal';
import { quote, run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { type By, checkedName, removeRow, saveBy } from '@/server/actions/named';
import type { SavedListInput } from '@/server/forms/types';

const COLUMNS = 'id::text, name, definition, version';
const MOST_LISTS = 500;

export async function savedLists(key: string): Promise<SavedListView[]> {
  const workspace = await loadWorkspace(key);
  return inSnapshot((transaction) => readLists(transaction, workspace));
}

export const readLists = (transaction: Transaction, { schema }: LoadedWorkspace): Promise<SavedListView[]> =>
  run<SavedListView>(
    transaction,
    `SELECT ${COLUMNS} FROM ${quote(schema)}._saved_list ORDER BY lower(name), id`,
  );

/** Keeps a list with a name: what it shows, in which order, of which records; or several selections joined. */
export function addList(by: By, { name, definition }: SavedListInput): Promise<SavedListView> {
  return saveBy(by, async ({ workspace, transaction }) => {
    checkDefinition(workspace.model, definition);
    const lists = await readLists(transaction, workspace);
    if (lists.length >= MOST_LISTS)
      throw new Refusal(409, 'list.most', `There are ${MOST_LISTS} lists already. Remove one first.`);
    const checked = checkedName('list', name, namesOf(lists));
    const made = firstIn(
      await run<SavedListView>(
        transaction,
        `INSERT INTO ${quote(workspace.schema)}._saved_list (id, name, definition) VALUES ($1, $2, $3) RETURNING ${COLUMNS}`,
        [newId(), checked, JSON.stringify(definition)],
      ),
    );
    return made;
  });
}

/** Changes a kept list. Refuses one that somebody else has changed since it was read. */
export function changeList(
  by: By,
  id: string,
  { name, definition, version }: Partial<SavedListInput> & { readonly version: number },
): Promise<SavedListView> {
  return saveBy(by, async ({ workspace, transaction }) => {
    const lists = await readLists(transaction, workspace);
    const stored = lists.find((list) => list.id === id);
    if (!stored) throw unknownList();
    if (stored.version !== version) {
      const message = `“${stored.name}” was changed by somebody else meanwhile. Reload, and change it then.`;
      throw new Refusal(409, 'list.version', message, [], { seen: version, current: stored.version });
    }
    if (definition) checkDefinition(workspace.model, definition);
    const [changed] = await run<SavedListView>(
      transaction,
      `UPDATE ${quote(workspace.schema)}._saved_list SET name = $2, definition = $3, version = version + 1
        WHERE id = $1 AND version = $4 RETURNING ${COLUMNS}`,
      [
        ...[
          id,
          name === undefined
            ? stored.name
            : checkedName('list', name, namesOf(lists.filter((list) => list.id !== id))),
        ],
        ...[JSON.stringify(definition ?? stored.definition), version],
      ],
    );
    if (!changed) throw unknownList();
    return changed;
  });
}

export function removeList(by: By, id: string): Promise<void> {
  return saveBy(by, async ({ workspace, transaction }) => {
    if (!(await removeRow(transaction, workspace.schema, '_saved_list', id))) throw unknownList();
  });
}

const namesOf = (lists: readonly SavedListView[]): string[] => lists.map(({ name }) => name.toLowerCase());

const unknownList = (): Refusal =>
  new Refusal(404, 'list.unknown', 'There is no such list. It may have been removed.');

function checkDefinition(model: Model, definition: SavedListDefinition): void {
  const problems = listProblems(model, definition);
  if (problems.length > 0) throw refuse(422, problems);
}

/** Why a list can't be read on a model: types, fields and selections that aren't there. */
export function listProblems(model: Model, definition: SavedListDefinition): Problem[] {
  if (definition.kind === 'joined') {
    return definition.selections
      .filter((key) => !model.selection(key))
      .map((key) => ({ code: 'list.selection', place: key, message: `There is no selection “${key}”.` }));
  }
  const { type, columns, sort, condition } = definition;
  const found = model.type(type);
  if (!found) return [{ code: 'list.type', place: 'type', message: `There is no type “${type}”.` }];
  const wanted = [...columns, ...(sort === null ? [] : [sort.replace(/^-/, '')])];
  const typed = condition === null ? null : typeCondition(model, type, condition);
  return [
    ...wanted
      .filter((key) => !model.field(type, key))
      .map((key): Problem => ({
        code: 'list.field',
        place: key,
        message: `${found.name} has no field “${key}”.`,
      })),
    ...(typed && !typed.ok ? [typed.problem] : []),
  ];
}

/** Lists that can be read on one model and not on the other, as problems that name them. */
export const lostLists = (lists: readonly SavedListView[], before: Model, after: Model): Problem[] =>
  lists.flatMap(({ id, name, definition }) => {
    const [problem] = listProblems(after, definition);
    if (!problem || listProblems(before, definition).length > 0) return [];
    const message = `The list “${name}” couldn’t be read afterwards: ${problem.message} Change or remove the list first.`;
    return [{ code: 'model.list', place: id, message }];
  });

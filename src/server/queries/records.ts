import type { Row } from '@/core/engine';
import { type Model, typeIn } from '@/core/model';
import { parseValue } from '@/core/values';
import { type RecordList, type RecordView, recordToWire } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { database } from '../database/connection';
import { Refusal } from '../refusal';
import { Binds, columnOf, run, tableOf } from '../store/sql';
import { readRows, rowColumns, rowFrom, toColumn } from '../store/values';
import type { LoadedWorkspace } from '../store/workspace';
import { remember } from '../store/hints';
import { readTitles, Wanted } from './titles';

export interface ListInput {
  readonly type: string;
  /** Only records whose title holds this, whatever the case. */
  readonly search?: string;
  /** Only records with these values (wire form) in these fields. */
  readonly filter: Readonly<Record<string, string>>;
  /** Key of a field; the title when left out. Empty values come last. */
  readonly sort?: string;
  readonly descending: boolean;
  readonly limit: number;
  readonly offset: number;
}

export function checkType(model: Model, type: string): void {
  if (model.type(type)) return;
  const known = model.types.map(({ key }) => key).join(', ');
  throw new Refusal(404, 'type.unknown', `There is no type “${type}”. The types are ${known}.`);
}

export function listRecords(workspace: LoadedWorkspace, input: ListInput): Promise<RecordList> {
  const { model, schema } = workspace;
  checkType(model, input.type);
  const binds = new Binds();
  const where = ['t.deleted_run IS NULL', ...conditions(model, input, binds)].join(' AND ');
  const sort = input.sort ?? typeIn(model, input.type).title;
  const order = `${orderSql(model, input.type, sort)} ${input.descending ? 'DESC' : 'ASC'} NULLS LAST, t.id`;
  return database().transaction(async (transaction) => {
    const table = tableOf(schema, input.type);
    const [count] = await run<{ total: number }>(
      transaction,
      `SELECT count(*)::int AS total FROM ${table} t WHERE ${where}`,
      binds.values,
    );
    const page = `LIMIT ${binds.add(input.limit, 'int')} OFFSET ${binds.add(input.offset, 'int')}`;
    const text = `SELECT ${rowColumns(workspace, input.type, 't')} FROM ${table} t WHERE ${where} ORDER BY ${order} ${page}`;
    const rows = (await run(transaction, text, binds.values)).map((found) =>
      rowFrom(workspace, input.type, found),
    );
    return {
      records: rows.map((row) => recordToWire(model, row)),
      total: count!.total,
      names: await namesFor(transaction, workspace, rows),
    };
  });
}

function conditions(model: Model, { type, search, filter }: ListInput, binds: Binds): string[] {
  const title = columnOf(typeIn(model, type).title);
  const found = search
    ? [`position(lower(${binds.add(search.normalize('NFC'), 'text')}) in lower(t.${title})) > 0`]
    : [];
  return [
    ...found,
    ...Object.entries(filter).map(([key, wire]) => {
      const field = model.field(type, key);
      if (!field)
        throw new Refusal(
          422,
          'list.field',
          `${typeIn(model, type).name} has no field “${key}” to filter by.`,
        );
      const value = parseValue(field.type, field.type.kind === 'yesNo' ? wire === 'true' : wire);
      if (!value.ok) throw new Refusal(422, value.problem.code, `${field.name}: ${value.problem.message}`);
      return `t.${columnOf(key)} = ${binds.add(toColumn(field.type, value.value), field.type.kind === 'link' || field.type.kind === 'person' ? 'uuid' : 'text')}`;
    }),
  ];
}

/** Links are ordered by the title of what they name, choices by the position of their option. */
function orderSql(model: Model, type: string, key: string): string {
  const field = model.field(type, key);
  if (!field)
    throw new Refusal(422, 'list.sort', `${typeIn(model, type).name} has no field “${key}” to sort by.`);
  const column = `t.${columnOf(key)}`;
  if (field.type.kind === 'choice') {
    const cases = field.type.options.map(
      (option, index) => `WHEN '${option.key.replaceAll("'", "''")}' THEN ${index}`,
    );
    return `CASE ${column} ${cases.join(' ')} END`;
  }
  return column;
}

/** Titles of what records link to, and names of the people in them. */
export async function namesFor(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rows: readonly Row[],
): Promise<Record<string, string>> {
  const names: Record<string, string> = {};
  const wanted = new Wanted();
  for (const row of rows) {
    for (const { key, type } of typeIn(workspace.model, row.type).fields) {
      const id = row.values[key];
      if (type.kind === 'person' && typeof id === 'string') names[id] = workspace.people.get(id) ?? id;
      if (type.kind === 'link') wanted.add(type.target, id);
    }
  }
  return { ...names, ...(await readTitles(transaction, workspace, wanted)) };
}

/** One record that isn't deleted; refuses otherwise. */
export async function findRow(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: string,
  id: string,
): Promise<Row> {
  checkType(workspace.model, type);
  const parsed = parseValue({ kind: 'link', target: type }, id);
  const [row] = parsed.ok ? await readRows(transaction, workspace, type, [id]) : [];
  const { name } = typeIn(workspace.model, type);
  if (!row)
    throw new Refusal(
      404,
      'record.unknown',
      `There is no ${name} ${id}. It may be of another type, or the address is wrong.`,
    );
  if (row.deleted) throw new Refusal(404, 'record.deleted', `This ${name} has been deleted.`);
  return row;
}

export const getRecord = (workspace: LoadedWorkspace, type: string, id: string): Promise<RecordView> =>
  database().transaction(async (transaction) => {
    const row = await findRow(transaction, workspace, type, id);
    remember(workspace, [row]);
    return {
      record: recordToWire(workspace.model, row),
      names: await namesFor(transaction, workspace, [row]),
    };
  });

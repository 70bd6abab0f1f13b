import type { Row } from '@/core/engine';
import { type Expression, typeCondition } from '@/core/expression';
import { fieldIn, type Model, typeIn } from '@/core/model';
import { parseValue } from '@/core/values';
import { type RecordList, type RecordView, recordToWire } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { database } from '../database/connection';
import { refuse, Refusal } from '../refusal';
import { filterSql } from '../store/expression-sql';
import { RouteJoins } from '../store/route-joins';
import { bindType, Binds, columnOf, quote, readColumn, run, tableOf } from '../store/sql';
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
  /** Only records for which this holds; a field in error reads as empty. */
  readonly condition?: Expression;
  /** Records in the bin instead of those that are there. */
  readonly isBin?: boolean;
  /** Key of a field; the title when left out. Empty values come last. */
  readonly sort?: string;
  readonly descending: boolean;
  readonly limit: number;
  /** The `next` of the page before. */
  readonly after?: string;
}

/** Most records that are counted; a list of more says “over”. */
export const MOST_COUNTED = 10_000;

export function checkType(model: Model, type: string): void {
  if (model.type(type)) return;
  const known = model.types.map(({ key }) => key).join(', ');
  throw new Refusal(404, 'type.unknown', `There is no type “${type}”. The types are ${known}.`);
}

/**
 * A page of a list. Pages go on from the last record of the one before, by its value and id, so that the thousandth costs what the
 * first does. The count comes with the first page, up to a limit.
 */
export function listRecords(workspace: LoadedWorkspace, input: ListInput): Promise<RecordList> {
  const { model, schema } = workspace;
  checkType(model, input.type);
  const order = orderOf(model, input);
  return database().transaction(async (transaction) => {
    const table = tableOf(schema, input.type);
    const counting = new Binds();
    const counted = whereOf(workspace, input, counting);
    const count = input.after
      ? null
      : await countUpTo(transaction, `FROM ${table} t ${counted.joins} WHERE ${counted.where}`, counting);
    const binds = new Binds();
    const { joins, where } = whereOf(workspace, input, binds);
    const after = input.after ? `AND ${afterSql(order, readCursor(order, input.after), binds)}` : '';
    // The page is found by ids first, and its records read then: otherwise every record that is sorted is written out.
    const page = `SELECT t.id FROM ${table} t ${joins} WHERE ${where} ${after} ORDER BY ${order.sql} LIMIT ${binds.add(input.limit + 1, 'int')}`;
    const text = `SELECT ${rowColumns(workspace, input.type, 't')}, ${order.cursor} AS cursor
      FROM ${table} t WHERE t.id IN (${page}) ORDER BY ${order.sql}`;
    const found = await run(transaction, text, binds.values);
    const rows = found.slice(0, input.limit).map((one) => rowFrom(workspace, input.type, one));
    const last = found.length > input.limit ? found[input.limit - 1]! : null;
    return {
      records: rows.map((row) => recordToWire(model, row)),
      count,
      next: last ? writeCursor(order, last.cursor as string | null, last.id as string) : null,
      names: await namesFor(transaction, workspace, rows),
    };
  });
}

async function countUpTo(transaction: Transaction, from: string, binds: Binds): Promise<RecordList['count']> {
  const text = `SELECT count(*)::int AS number FROM (SELECT 1 ${from} LIMIT ${binds.add(MOST_COUNTED + 1, 'int')}) x`;
  const [{ number }] = (await run<{ number: number }>(transaction, text, binds.values)) as [
    { number: number },
  ];
  return { number: Math.min(number, MOST_COUNTED), isExact: number <= MOST_COUNTED };
}

/** The condition of a list, and the tables up the routes that it reads. */
function whereOf(
  workspace: LoadedWorkspace,
  input: ListInput,
  binds: Binds,
): { where: string; joins: string } {
  const { model, plan } = workspace;
  const isKept = (type: string, field: string) => plan.keeper({ type, field }) !== undefined;
  const routes = new RouteJoins({ schema: workspace, from: input.type, alias: 't', binds, isKept });
  const parts = [
    input.isBin ? 't.deleted_run IS NOT NULL' : 't.deleted_run IS NULL',
    ...conditions(model, input, binds),
  ];
  if (input.condition) {
    const typed = typeCondition(model, input.type, input.condition);
    if (!typed.ok) throw refuse(422, [{ ...typed.problem, place: 'condition' }]);
    parts.push(filterSql(typed.value, (field) => routes.read(field), binds));
  }
  return { where: parts.join(' AND '), joins: routes.sql() };
}

interface Order {
  readonly key: string;
  readonly sql: string;
  /** What is compared, and its type in SQL. */
  readonly by: string;
  readonly type: string;
  readonly cursor: string;
  readonly isDescending: boolean;
  readonly isNullable: boolean;
}

function orderOf(model: Model, input: ListInput): Order {
  const key = input.sort ?? typeIn(model, input.type).title;
  const field = model.field(input.type, key);
  if (!field || field.type.kind === 'choices') {
    const name = typeIn(model, input.type).name;
    const message = field
      ? `${field.name} has no order to sort by.`
      : `${name} has no field “${key}” to sort by.`;
    throw new Refusal(422, 'list.sort', message);
  }
  const by = orderSql(model, input.type, key);
  const direction = input.descending ? 'DESC' : 'ASC';
  const isNullable = !field.required;
  return {
    ...{ key, by, isDescending: input.descending, isNullable },
    type: field.type.kind === 'choice' ? 'int' : bindType(field.type),
    sql: `${by} ${direction}${isNullable ? ' NULLS LAST' : ''}, t.id ${direction}`,
    cursor: field.type.kind === 'choice' ? `(${by})::text` : readColumn(field.type, by),
  };
}

interface Cursor {
  readonly value: string | null;
  readonly id: string;
}

/** Where a page goes on; it names its order, so that it isn't taken for another. */
const writeCursor = ({ key, isDescending }: Order, value: string | boolean | null, id: string): string =>
  Buffer.from(JSON.stringify([key, isDescending, value === null ? null : String(value), id])).toString(
    'base64url',
  );

function readCursor({ key, isDescending }: Order, text: string): Cursor {
  const refused = new Refusal(
    422,
    'list.after',
    '“after” should be the “next” of a page of the same list in the same order. Start again from the first page.',
  );
  try {
    const [sorted, descending, value, id] = JSON.parse(
      Buffer.from(text, 'base64url').toString('utf8'),
    ) as unknown[];
    const isOwn = sorted === key && descending === isDescending;
    const isValue = value === null || typeof value === 'string';
    if (!isOwn || !isValue || !parseValue({ kind: 'link', target: '' }, id).ok) throw refused;
    return { value, id: id as string };
  } catch {
    throw refused;
  }
}

/** Records after a cursor; empty values come last in both directions. */
function afterSql(
  { by, type, isDescending, isNullable }: Order,
  { value, id }: Cursor,
  binds: Binds,
): string {
  const sign = isDescending ? '<' : '>';
  const idPlace = binds.add(id, 'uuid');
  if (value === null) return `(${by} IS NULL AND t.id ${sign} ${idPlace})`;
  const place = binds.add(value, type);
  const pair = `(${by}, t.id) ${sign} (${place}, ${idPlace})`;
  return isNullable ? `(${pair} OR ${by} IS NULL)` : pair;
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
      if (!field) {
        const message = `${typeIn(model, type).name} has no field “${key}” to filter by.`;
        throw new Refusal(422, 'list.field', message);
      }
      const value = parseValue(field.type, field.type.kind === 'yesNo' ? wire === 'true' : wire);
      if (!value.ok) throw new Refusal(422, value.problem.code, `${field.name}: ${value.problem.message}`);
      return `t.${columnOf(key)} = ${binds.add(toColumn(field.type, value.value), bindType(field.type))}`;
    }),
  ];
}

/** Links are ordered by the title of what they name, choices by the position of their option. */
function orderSql(model: Model, type: string, key: string): string {
  const field = fieldIn(model, type, key);
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

/** One record; refuses one in the bin unless it is asked for. */
export async function findRow(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: string,
  id: string,
  isBinAllowed = false,
): Promise<Row> {
  checkType(workspace.model, type);
  const parsed = parseValue({ kind: 'link', target: type }, id);
  const [row] = parsed.ok ? await readRows(transaction, workspace, type, [id]) : [];
  const { name } = typeIn(workspace.model, type);
  if (!row) {
    const message = `There is no ${name} ${id}. It may be of another type, or the address is wrong.`;
    throw new Refusal(404, 'record.unknown', message);
  }
  if (row.deleted && !isBinAllowed)
    throw new Refusal(404, 'record.deleted', `This ${name} has been deleted. It is in the bin.`);
  return row;
}

/** A record with what it names; of one in the bin also who deleted it, when, and with what it went. */
export const getRecord = (
  workspace: LoadedWorkspace,
  type: string,
  id: string,
  isBinAllowed = false,
): Promise<RecordView> =>
  database().transaction(async (transaction) => {
    const row = await findRow(transaction, workspace, type, id, isBinAllowed);
    if (!row.deleted) remember(workspace, [row]);
    return {
      record: recordToWire(workspace.model, row),
      names: await namesFor(transaction, workspace, [row]),
      deletion: row.deleted ? await deletionOf(transaction, workspace, row) : null,
    };
  });

async function deletionOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { type, id }: Row,
): Promise<NonNullable<RecordView['deletion']>> {
  interface Found {
    run: string;
    at: string;
    person: string | null;
    deleted_with: string | null;
  }
  const [found] = (await run<Found>(
    transaction,
    `SELECT r.id::text AS run, to_char(r.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') AS at, r.person::text, t.deleted_with::text
      FROM ${tableOf(workspace.schema, type)} t JOIN ${quote(workspace.schema)}.run r ON r.id = t.deleted_run WHERE t.id = $1`,
    [id],
  )) as [Found];
  const { run: number, at, person, deleted_with: root } = found;
  const by = person === null ? null : (workspace.people.get(person) ?? person);
  return { run: number, at, person: by, with: root ? await rootOf(transaction, workspace, root) : null };
}

/** The record with whose deletion another went: its type isn't kept, so each that may take others along is asked. */
async function rootOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  id: string,
): Promise<{ type: string; id: string; title: string } | null> {
  for (const { key } of workspace.model.types) {
    const wanted = new Wanted();
    wanted.add(key, id);
    const title = (await readTitles(transaction, workspace, wanted))[id];
    if (title !== undefined) return { type: key, id, title };
  }
  return null;
}

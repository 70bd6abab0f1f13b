import { firstIn, parseValue, itemAt, lastIn } from '@/core/values';
import { type Expression, typeCondition } from '@/core/expression';
import { keepsField } from '@/server/store/write/keeps-field';
import { fieldIn, type Model, selectionIn, typeIn } from '@/core/model';
import type { Row } from '@/core/engine';
import { recordToWire } from '@/core/verify';
import { type RecordList } from '@/core/api';
import type { Transaction } from 'sequelize';
import { database } from '@/server/database/connection';
import { refuse, Refusal } from '@/server/refusal';
import { filterSql } from '@/server/store/rule-sql/expression-sql';
import { makeSoon, orderIndex, searchIndex } from '@/server/store/schema/list-index';
import { RouteJoins } from '@/server/store/rule-sql/route-joins';
import { likeText } from '@/server/store/sql/like-text';
import { bindType, Binds, columnOf, readColumn, run, tableOf } from '@/server/store/sql/sql';
import { rowColumns, rowFrom, toColumn } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { asOfIn, checkType, namesFor } from './records';

export interface ListInput {
  readonly type: string;
  /** Only records whose title holds this, whatever the case. */
  readonly search?: string;
  /** Only records with these values (wire form) in these fields. */
  readonly filter: Readonly<Record<string, string>>;
  /** Only records that hang under a record, or under one beneath that in a hierarchy of its type. */
  readonly beneath?: readonly Beneath[];
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

/** A link of the records of a list, and what it leads to: a record, or one beneath it over a link of that type to itself. */
export interface Beneath {
  readonly link: string;
  readonly through: string;
  readonly id: string;
}

/** Most records that are counted; a list of more says “over”. */
export const MOST_COUNTED = 10_000;

/**
 * A page of a list. Pages go on from the last record of the one before, by its value and id, so that the thousandth costs what the
 * first does. The count comes with the first page, up to a limit.
 */
export async function listRecords(workspace: LoadedWorkspace, input: ListInput): Promise<RecordList> {
  checkType(workspace.model, input.type);
  const order = orderOf(workspace.model, input);
  const cursor = input.after ? readCursor(order, input.after) : null;
  // Beside each other: the first rows needn't wait until all are counted.
  const [count, page] = await Promise.all([
    cursor ? null : database().transaction((transaction) => countUpTo(transaction, workspace, input)),
    database().transaction(async (transaction) => {
      const found = await readPage(transaction, workspace, { ...input, order, cursor });
      const rows = found.slice(0, input.limit).map((one) => rowFrom(workspace, input.type, one));
      const last = found.length > input.limit ? itemAt(found, input.limit - 1) : null;
      return {
        records: rows.map((row) => recordToWire(workspace.model, row)),
        next: last ? writeCursor(order, last.cursor as string | null, lastIn(rows).id) : null,
        names: await namesFor(transaction, workspace, rows),
        asOf: await behind(transaction, workspace, input, rows),
      };
    }),
  ]);
  // What somebody sees of a table has no indexes of its own; the table's serve it.
  if (workspace.sight) return { ...page, count };
  if (input.search) makeSoon(searchIndex(workspace, input.type));
  const { title } = typeIn(workspace.model, input.type);
  if (order.key !== title)
    makeSoon(orderIndex(workspace, input.type, orderSql(workspace.model, input.type, order.key, '')));
  return { ...page, count };
}

/** Which of the values aren't up to date; who sees a part isn't told by which rules they are as they are. */
const behind = (
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { type, isBin }: ListInput,
  rows: readonly Row[],
): Promise<RecordList['asOf']> | RecordList['asOf'] =>
  isBin || workspace.sight
    ? {}
    : asOfIn(
        transaction,
        workspace,
        type,
        rows.map(({ id }) => id),
      );

interface PageInput extends ListInput {
  readonly order: Order;
  readonly cursor: Cursor | null;
}

type Found = Record<string, unknown>;

/**
 * Records with a value, in its order, and after them those without, by id: each of the two is a stretch of one index, read
 * forwards or backwards from where the page starts. One more than the limit, to tell whether the list goes on.
 */
async function readPage(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  input: PageInput,
): Promise<Found[]> {
  const { order, cursor, limit } = input;
  const direction = order.isDescending ? 'DESC' : 'ASC';
  const found: Found[] = [];
  if (cursor === null || cursor.value !== null) {
    const binds = new Binds();
    const from = cursor ? `AND (${order.by}, t.id) ${order.onward} ${pairOf(order, cursor, binds)}` : '';
    const own = `${order.isNullable ? `AND ${order.by} IS NOT NULL` : ''} ${from}`;
    const sorted = `${order.by} ${direction}, t.id ${direction}`;
    found.push(
      ...(await readStretch(transaction, workspace, input, { own, sorted, binds, limit: limit + 1 })),
    );
  }
  if (order.isNullable && found.length <= limit) {
    const binds = new Binds();
    const isWithin = cursor !== null && cursor.value === null;
    const from = isWithin ? `AND t.id ${order.onward} ${binds.add(cursor.id, 'uuid')}` : '';
    const own = `AND ${order.by} IS NULL ${from}`;
    const rest = { own, sorted: `t.id ${direction}`, binds, limit: limit + 1 - found.length };
    found.push(...(await readStretch(transaction, workspace, input, rest)));
  }
  return found;
}

interface Stretch {
  /** What its records have in common beside the list's conditions. */
  readonly own: string;
  readonly sorted: string;
  readonly binds: Binds;
  readonly limit: number;
}

function readStretch(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  input: PageInput,
  { own, sorted, binds, limit }: Stretch,
): Promise<Found[]> {
  const table = tableOf(workspace.schema, input.type);
  const { joins, where } = whereOf(workspace, input, binds);
  // The page is found by ids first, and its records read then: otherwise every record that is sorted is written out.
  const page = `SELECT t.id FROM ${table} t ${joins} WHERE ${where} ${own} ORDER BY ${sorted} LIMIT ${binds.add(limit, 'int')}`;
  const text = `SELECT ${rowColumns(workspace, input.type, 't')}, ${input.order.cursor} AS cursor
    FROM ${table} t WHERE t.id IN (${page}) ORDER BY ${sorted}`;
  return run(transaction, text, binds.values);
}

async function countUpTo(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  input: ListInput,
): Promise<RecordList['count']> {
  const binds = new Binds();
  const { joins, where } = whereOf(workspace, input, binds);
  const text = `SELECT count(*)::int AS number FROM (
    SELECT 1 FROM ${tableOf(workspace.schema, input.type)} t ${joins} WHERE ${where} LIMIT ${binds.add(MOST_COUNTED + 1, 'int')}) x`;
  const [{ number }] = (await run<{ number: number }>(transaction, text, binds.values)) as [
    { number: number },
  ];
  return { number: Math.min(number, MOST_COUNTED), isExact: number <= MOST_COUNTED };
}

/** How many records are in a selection, to the last one. */
export async function countSelected(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  key: string,
): Promise<number> {
  const { type } = selectionIn(workspace.model, key);
  const condition: Expression = { kind: 'selection', operator: 'isIn', route: [], selection: key };
  return countAll(transaction, workspace, { type, filter: {}, condition, descending: false, limit: 0 });
}

/** How many records a list has, to the last one. */
export async function countAll(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  input: ListInput,
): Promise<number> {
  const binds = new Binds();
  const { joins, where } = whereOf(workspace, input, binds);
  const text = `SELECT count(*)::int AS number FROM ${tableOf(workspace.schema, input.type)} t ${joins} WHERE ${where}`;
  const found = firstIn(await run<{ number: number }>(transaction, text, binds.values));
  return found.number;
}

/** The records of a list under the alias `t`: from where, and under which condition. */
export function listSql(
  workspace: LoadedWorkspace,
  input: Pick<ListInput, 'type' | 'search' | 'filter' | 'beneath' | 'condition'>,
  binds: Binds,
): string {
  const { joins, where } = whereOf(workspace, input, binds);
  return `FROM ${tableOf(workspace.schema, input.type)} t ${joins} WHERE ${where}`;
}

/** The condition of a list, and the tables up the routes that it reads. */
function whereOf(
  workspace: LoadedWorkspace,
  input: Pick<ListInput, 'type' | 'search' | 'filter' | 'beneath' | 'condition' | 'isBin'>,
  binds: Binds,
): { where: string; joins: string } {
  const { model, plan } = workspace;
  const isKept = keepsField(plan);
  const routes = new RouteJoins({ schema: workspace, from: input.type, alias: 't', binds, isKept });
  const parts = [
    input.isBin ? 't.deleted_run IS NOT NULL' : 't.deleted_run IS NULL',
    ...conditions(model, input, binds),
    ...(input.beneath ?? []).map((one) => beneathSql(workspace, input.type, one, binds)),
  ];
  if (input.condition) {
    const typed = typeCondition(model, input.type, input.condition);
    if (!typed.ok) throw refuse(422, [{ ...typed.problem, place: 'condition' }]);
    parts.push(filterSql(typed.value, routes, binds));
  }
  return { where: parts.join(' AND '), joins: routes.sql() };
}

interface Order {
  readonly key: string;
  /** What is compared, and its type in SQL. */
  readonly by: string;
  readonly type: string;
  readonly cursor: string;
  readonly isDescending: boolean;
  /** What comes later is `>` or `<`. */
  readonly onward: '>' | '<';
  readonly isNullable: boolean;
}

function orderOf(model: Model, input: ListInput): Order {
  const key = input.sort ?? typeIn(model, input.type).title;
  const field = model.field(input.type, key);
  if (!field || field.type.kind === 'choices' || field.type.kind === 'anyMoney') {
    const name = typeIn(model, input.type).name;
    const message = field
      ? `${field.name} has no order to sort by.`
      : `${name} has no field “${key}” to sort by.`;
    throw new Refusal(422, 'list.sort', message);
  }
  const by = orderSql(model, input.type, key, 't.');
  return {
    ...{ key, by, isDescending: input.descending, isNullable: !field.required },
    onward: input.descending ? '<' : '>',
    type: field.type.kind === 'choice' ? 'int' : bindType(field.type),
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

const pairOf = ({ type }: Order, { value, id }: Cursor, binds: Binds): string =>
  `(${binds.add(value, type)}, ${binds.add(id, 'uuid')})`;

/** Whether the title of a record, under the alias `t`, holds a text, whatever the case. */
export const titleHoldsSql = (model: Model, type: string, text: string, binds: Binds): string =>
  `lower(t.${columnOf(typeIn(model, type).title)}) LIKE lower(${binds.add(`%${likeText(text.normalize('NFC'))}%`, 'text')})`;

function conditions(
  model: Model,
  { type, search, filter }: Pick<ListInput, 'type' | 'search' | 'filter'>,
  binds: Binds,
): string[] {
  const found = search ? [titleHoldsSql(model, type, search, binds)] : [];
  return [
    ...found,
    ...Object.entries(filter).map(([key, wire]) => {
      const field = model.field(type, key);
      if (!field) {
        const message = `${typeIn(model, type).name} has no field “${key}” to filter by.`;
        throw new Refusal(422, 'list.field', message);
      }
      // An empty cell of the address asks for records where the field is empty.
      if (wire === '') return `t.${columnOf(key)} IS NULL`;
      const value = parseValue(field.type, field.type.kind === 'yesNo' ? wire === 'true' : wire);
      if (!value.ok) throw new Refusal(422, value.problem.code, `${field.name}: ${value.problem.message}`);
      return `t.${columnOf(key)} = ${binds.add(toColumn(field.type, value.value), bindType(field.type))}`;
    }),
  ];
}

/** That a link of the records, under the alias `t`, names a record or one beneath it. What lies in the bin leads no further. */
function beneathSql(
  workspace: LoadedWorkspace,
  type: string,
  { link, through, id }: Beneath,
  binds: Binds,
): string {
  const { model } = workspace;
  const named = model.linksFrom(type).find((one) => one.link === link);
  const isOver = model
    .linksFrom(named?.parent ?? '')
    .some((one) => one.link === through && one.parent === named?.parent);
  if (!named || !isOver) {
    const message = `“beneath.${link}=${through}:…” asks for a link of ${typeIn(model, type).name} whose records hang under each other by “${through}”. Name such a link, and a link of what it names to its own type.`;
    throw new Refusal(422, 'list.field', message);
  }
  const value = parseValue({ kind: 'link', target: named.parent }, id);
  if (!value.ok) throw new Refusal(422, value.problem.code, `beneath.${link}: ${value.problem.message}`);
  const root = binds.add(id, 'uuid');
  return `t.${columnOf(link)} IN (WITH RECURSIVE beneath (id) AS (
    SELECT ${root} UNION SELECT part.id FROM ${tableOf(workspace.schema, named.parent)} part
      JOIN beneath ON part.${columnOf(through)} = beneath.id WHERE part.deleted_run IS NULL) SELECT id FROM beneath)`;
}

/** Links are ordered by the title of what they name, choices by the position of their option. */
function orderSql(model: Model, type: string, key: string, of: 't.' | ''): string {
  const field = fieldIn(model, type, key);
  const column = `${of}${columnOf(key)}`;
  if (field.type.kind === 'choice') {
    const cases = field.type.options.map(
      (option, index) => `WHEN ${database().escape(option.key)} THEN ${index}`,
    );
    return `CASE ${column} ${cases.join(' ')} END`;
  }
  return column;
}

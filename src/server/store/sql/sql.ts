import { createHash } from 'node:crypto';
import type { Writable } from 'node:stream';
import type { Model } from '@/core/model';
import type { Kind, ValueType } from '@/core/values';
import { QueryTypes, type Transaction } from 'sequelize';
import { database } from '@/server/database/connection';

const quoted = new Map<string, string>();

/** Quotes an identifier by Sequelize's own generator; remembered, since every statement is full of them. */
export function quote(name: string): string {
  let known = quoted.get(name);
  if (known === undefined) {
    known = database().getQueryInterface().quoteIdentifier(name, true);
    quoted.set(name, known);
  }
  return known;
}

const constants = new Map<string, string>();

/** A text that the model or the program itself gives, as a constant of a statement; what people type is bound. */
export function constant(text: string): string {
  let known = constants.get(text);
  if (known === undefined) constants.set(text, (known = database().escape(text)));
  return known;
}

const remembered = new WeakMap<object, Map<string, string>>();

/** A piece of SQL that depends on nothing but a workspace as compiled and a key: written once for each. */
export function once(schema: object, key: string, write: () => string): string {
  let known = remembered.get(schema);
  if (!known) remembered.set(schema, (known = new Map<string, string>()));
  let text = known.get(key);
  if (text === undefined) known.set(key, (text = write()));
  return text;
}

/** Columns that PostgreSQL itself has on every table. */
const SYSTEM_COLUMNS = new Set(['tableoid', 'xmin', 'cmin', 'xmax', 'cmax', 'ctid']);

/**
 * `insuredTotal` → `insured_total`: keys have no underscores, so no two of them meet. Nor does one meet a name of Oikon's own, which begins
 * with an underscore, or a column of PostgreSQL's own: that is written with one at its end (`xmin_`).
 */
const snakes = new Map<string, string>();
export function snake(key: string): string {
  let known = snakes.get(key);
  if (known === undefined)
    snakes.set(
      key,
      (known = SYSTEM_COLUMNS.has(key)
        ? `${key}_`
        : key.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`)),
    );
  return known;
}

/** A type's table with its schema, and a field's column, both quoted. Of a schema as somebody sees it, who sees only a part: the records that they see, which need an alias. */
export const tableOf = (schema: string, type: string): string =>
  seenSchemas.get(schema)?.(type) ?? `${quote(schema)}.${quote(snake(type))}`;

/** Schemas as people see them, by names that no schema has: whatever isn't asked by `tableOf` finds nothing there. */
const seenSchemas = new Map<string, (type: string) => string>();
const MOST_SEEN = 5_000;

/** Has `tableOf` answer for a schema as somebody sees it. Of very many the one that was made first is forgotten: asked again it is made again. */
export function seeSchema(name: string, tableSeen: (type: string) => string): void {
  const [oldest] = seenSchemas.keys();
  if (oldest !== undefined && seenSchemas.size >= MOST_SEEN) seenSchemas.delete(oldest);
  seenSchemas.set(name, tableSeen);
}
export const columnOf = (field: string): string => quote(snake(field));

const hashed = (text: string): string => createHash('sha256').update(text).digest('hex').slice(0, 24);

/** The name of a unique field's index. Records in the bin don't count. */
export const uniqueName = (type: string, field: string): string => `_one_${hashed(`${type}.${field}`)}`;
/** The name of a serial field's index. */
export const uniqueSerial = (type: string, field: string): string => `_serial_${hashed(`${type}.${field}`)}`;
/**
 * The name of an index of a type's table (`_loan__by_exhibition`), at most 63 bytes: longer names are cut by PostgreSQL, and two might
 * be cut alike. It begins like all names of Oikon's own, since indexes and tables share their names.
 */
export function indexName(type: string, what: string): string {
  const whole = `_${snake(type)}__${what}`;
  return whole.length <= 63 ? whole : `${whole.slice(0, 38)}_${hashed(whole)}`;
}
/** The name of what holds records to an open link. */
export const openLinkName = (type: string, open: string): string => `open_${hashed(`${type}.${open}`)}`;

/**
 * The columns that hold what a kept value is made of (see `Accumulator`), beside the field's own, and the child that leads. They are there once such a
 * rule was live on the field; NULL means unknown.
 */
export const keptColumns = (field: string): Record<'count' | 'sum' | 'errors' | 'leader', string> => ({
  count: quote(`${snake(field)}__n`),
  sum: quote(`${snake(field)}__s`),
  errors: quote(`${snake(field)}__e`),
  leader: quote(`${snake(field)}__l`),
});

/**
 * The name of the column that holds the row of its map that a rule that reacts was at: several may react into one field, each from a row of its own. The
 * field stands in it so that its columns are found when it goes. Written the same in the workspaces' step 031.
 */
export function reactingRow(rule: string, field: string): string {
  const of = `${rule} ${field}`;
  let name = reactingNames.get(of);
  // Asked for each record that is written.
  if (name === undefined) reactingNames.set(of, (name = `${reactingRows(field)}${hashed(rule)}`));
  return name;
}
const reactingNames = new Map<string, string>();
export const reactingRows = (field: string): string => `_row_${hashed(field).slice(0, 12)}_`;

/** The values of one statement. Values are always bound, never written into the text. */
export class Binds implements ValuePlaces {
  readonly values: unknown[] = [];
  readonly types: string[] = [];
  readonly #records = new Map<string, string>();

  /** Binds the id of a record, once however often it is named. */
  record(id: string): string {
    let place = this.#records.get(id);
    if (place === undefined) this.#records.set(id, (place = this.add(id, 'uuid')));
    return place;
  }

  /** Binds a value and answers its place, with its type: `$3::numeric`. */
  add(value: unknown, type: string): string {
    this.values.push(value);
    this.types.push(type);
    return `$${this.values.length}::${type}`;
  }
}

/** Up to so many ids are bound one by one. */
const FEW_IDS = 4;

/**
 * Records of given ids. A list is planned as one of ten, so that a plan for the ids that are there seems the cheaper one every time, and each statement
 * is planned anew, which takes as long as the rest of it: few stand one by one.
 */
export const idsAmong = (column: string, ids: readonly string[], binds: Binds): string =>
  ids.length <= FEW_IDS
    ? `${column} IN (${ids.map((id) => binds.record(id)).join(', ')})`
    : `${column} = ANY(${binds.add(ids, 'uuid[]')})`;

/** Where statements put their values. */
export interface ValuePlaces {
  add(value: unknown, type: string): string;
}

export interface TemporaryTable {
  readonly name: string;
  readonly query: string;
  readonly binds: Binds;
  /** Whether it is made without records. */
  readonly isEmpty?: boolean;
}

/**
 * Makes a temporary table of a query, which unlike INSERT … SELECT may be worked out by several processes at once. CREATE TABLE … AS
 * takes no bound values: they are set beside it, and handed over to the prepared query, which is planned with them as constants. It has
 * room for grouping many records in memory: on disk that takes a tenth longer.
 */
export async function makeTable(
  transaction: Transaction,
  { name, query, binds, isEmpty = false }: TemporaryTable,
): Promise<void> {
  const values = binds.values.map((value, at) => {
    const text = textOf(value);
    // The first character tells empty from a text without characters.
    return [`oikon.value_${at + 1}`, text === null ? '-' : `v${text}`];
  });
  const settings = [...values, ['work_mem', '64MB']];
  await run(
    transaction,
    'SELECT set_config(x.name, x.value, true) FROM unnest($1::text[], $2::text[]) AS x(name, value)',
    [settings.map(([setting]) => setting), settings.map(([, value]) => value)],
  );
  const given = binds.types.map((type, at) => {
    const setting = `current_setting('oikon.value_${at + 1}')`;
    return `(CASE WHEN left(${setting}, 1) = 'v' THEN substr(${setting}, 2) END)::${type}`;
  });
  const [types, handed] =
    given.length > 0 ? [`(${binds.types.join(', ')})`, `(${given.join(', ')})`] : ['', ''];
  const prepared = quote(`${name}_query`);
  await run(transaction, `PREPARE ${prepared} ${types} AS ${query}`);
  await run(
    transaction,
    `CREATE TEMPORARY TABLE ${quote(name)} ON COMMIT DROP AS EXECUTE ${prepared} ${handed}${isEmpty ? ' WITH NO DATA' : ''}`,
  );
  await run(transaction, `DEALLOCATE ${prepared}`);
}

/** A value in PostgreSQL's own text form. */
function textOf(value: unknown): string | null {
  if (value === null || value === undefined) return null;
  if (!Array.isArray(value)) return String(value);
  return `{${value.map((one) => `"${String(one).replace(/[\\"]/g, '\\$&')}"`).join(',')}}`;
}

interface PoolClient {
  query(config: {
    name?: string;
    text: string;
    values: readonly unknown[];
  }): Promise<{ rows: Record<string, unknown>[]; rowCount: number | null }>;
}

/** Runs one statement on the connection of a transaction and answers its rows. */
export async function run<T = Record<string, unknown>>(
  transaction: Transaction,
  text: string,
  values: readonly unknown[] = [],
): Promise<T[]> {
  const { connection } = transaction as unknown as { connection: PoolClient };
  return (await connection.query({ text, values })).rows as T[];
}

/** One statement that is a transaction by itself, in one round trip; answers its rows. */
export const runAlone = async <T extends object = Record<string, unknown>>(
  text: string,
  values: readonly unknown[] = [],
): Promise<T[]> => database().query<T>(text, { bind: [...values], type: QueryTypes.SELECT });

/** Most statements that are kept prepared on a connection; others are sent as they are. */
const MOST_PREPARED = 300;
const names = new Map<string, Map<string, string>>();
let prepared = 0;

function nameOf(epoch: string, text: string): string {
  let ofEpoch = names.get(epoch);
  if (!ofEpoch) names.set(epoch, (ofEpoch = new Map<string, string>()));
  let name = ofEpoch.get(text);
  if (name === undefined) {
    if (prepared >= MOST_PREPARED) {
      names.clear();
      prepared = 0;
      names.set(epoch, (ofEpoch = new Map<string, string>()));
    }
    name = createHash('sha256').update(`${epoch} ${text}`).digest('base64url');
    ofEpoch.set(text, name);
    prepared += 1;
  }
  return name;
}

/**
 * The same for statements of every save, prepared once on each connection: half the time of such a statement was spent on
 * planning it. Its name is a hash of the epoch and the text, so a change of the model or of live rules never meets an
 * old plan.
 */
export async function runHot<T = Record<string, unknown>>(
  transaction: Transaction,
  epoch: string,
  text: string,
  values: readonly unknown[] = [],
): Promise<T[]> {
  const { connection } = transaction as unknown as { connection: PoolClient };
  return (await connection.query({ name: nameOf(epoch, text), text, values })).rows as T[];
}

/** Holds back what is sent on the connection until the function that it answers is called. */
export function cork(transaction: Transaction): () => void {
  const { connection } = transaction as unknown as { connection: { connection: { stream: Writable } } };
  const { stream } = connection.connection;
  stream.cork();
  return () => stream.uncork();
}

/** Hands several statements to the connection in one piece, so that they travel in one packet. */
export function pipelined<T>(transaction: Transaction, send: () => T): T {
  const uncork = cork(transaction);
  try {
    return send();
  } finally {
    uncork();
  }
}

/** Waits for all, also when one fails: the first failure is the cause of those after it. */
export async function allOf<T>(sent: readonly Promise<T>[]): Promise<T[]> {
  const settled = await Promise.allSettled(sent);
  return settled.map((one) => {
    if (one.status === 'rejected') throw one.reason;
    return one.value;
  });
}

/** An amount with its currency, in one column; made with the installation's own tables. */
const ANY_MONEY = 'public.oikon_money';

interface ColumnKind {
  /** The column type that holds a field with so many places. */
  readonly column: (places: number) => string;
  /** The type as which a value is compared and bound. */
  readonly bind: string;
  /** SQL that reads a column in the form of `fromColumn`. */
  readonly read: (sql: string) => string;
}

const asIs = (sql: string): string => sql;
const asText = (sql: string): string => `${sql}::text`;
/** Numbers are exact, with 30 whole digits and the field's own places. */
const NUMERIC: ColumnKind = {
  ...{ column: (places) => `numeric(${30 + places}, ${places})`, bind: 'numeric', read: asText },
};
const TEXT: ColumnKind = { column: () => 'text', bind: 'text', read: asIs };
const ID: ColumnKind = { column: () => 'uuid', bind: 'uuid', read: asText };

/** How each kind of field is stored. */
const COLUMN_KINDS = {
  text: TEXT,
  longText: TEXT,
  number: NUMERIC,
  money: NUMERIC,
  anyMoney: { column: () => ANY_MONEY, bind: ANY_MONEY, read: asText },
  rating: { column: () => 'smallint', bind: 'numeric', read: asText },
  yesNo: { column: () => 'boolean', bind: 'boolean', read: asIs },
  date: { column: () => 'date', bind: 'date', read: asText },
  dateTime: {
    column: () => 'timestamptz(3)',
    bind: 'timestamptz',
    read: (sql) => `to_char(${sql} AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`,
  },
  choice: TEXT,
  choices: { column: () => 'text[]', bind: 'text[]', read: asIs },
  person: ID,
  link: ID,
  serial: { column: () => 'bigint', bind: 'numeric', read: asText },
} as const satisfies Readonly<Record<Kind, ColumnKind>>;

/** The column type that holds a field. */
export const columnType = ({ kind }: ValueType, places: number): string => COLUMN_KINDS[kind].column(places);

/** The type as which a value of the kind is compared and bound. */
export const bindType = ({ kind }: ValueType): string => COLUMN_KINDS[kind].bind;

/** Reads a column in the form of `fromColumn`: exact decimals and dates as text. */
export const readColumn = ({ kind }: ValueType, sql: string): string => COLUMN_KINDS[kind].read(sql);

/** What statements about a workspace's records need to know. */
export interface Schema {
  readonly model: Model;
  readonly schema: string;
}

/** A statement took longer than it may: PostgreSQL's `query_canceled`. */
export const isCancelled = (error: unknown): boolean =>
  (error as { readonly parent?: { readonly code?: string } }).parent?.code === '57014';

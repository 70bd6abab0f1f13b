import { foundBy, type ImportPlan } from '@/core/intake';
import { type Field, fieldIn, type Model, typeIn } from '@/core/model';
import type { FieldRef } from '@/core/rules';
import {
  certain,
  firstIn,
  foundIn,
  parseValue,
  placesOf,
  type ProblemCode,
  type ValueType,
} from '@/core/values';
import type { Transaction } from 'sequelize';
import { copyLines } from '@/server/store/sql/copy-in';
import { Binds, bindType, columnOf, columnType, run, tableOf } from '@/server/store/sql/sql';
import { toColumn } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/**
 * The rows of a file that have been read, beside the records, for the time of one transaction. No type's table has two underscores
 * in its name, so none of these names meets one in a rehearsal.
 */
export const INCOMING = 'pg_temp.import__rows';
const REFUSED = 'pg_temp.import__refused';

/** One thing by which the record that a link names is found. */
interface LookupPart {
  readonly by: Field;
  readonly heading: string;
  /** The column of the table of incoming rows that holds it, and what kind of value that is: for a link a title. */
  readonly column: string;
  readonly type: ValueType;
}

/** A field that a column of the file fills. */
export interface Filled {
  readonly field: Field;
  readonly heading: string;
  /** The column of the table of incoming rows that holds the value. */
  readonly column: string;
  readonly clears: boolean;
  /** For a link that isn't given by id: by what its record is found. */
  readonly lookup: { readonly target: string; readonly parts: readonly LookupPart[] } | null;
  /** For one link of an open link: the columns of all of them, itself included. */
  readonly open: readonly string[];
  /** Not a column of the file: another link of an open link, which is emptied where the file fills one. */
  readonly isEmptied: boolean;
}

export interface IncomingInput {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly type: string;
  readonly plan: ImportPlan;
}

/** A reason why a row is refused. */
export interface RefusedRow {
  readonly line: number;
  /** The heading of the column that is at fault, or empty for the row as a whole. */
  readonly column: string;
  readonly code: ProblemCode;
  readonly message: string;
}

function sqlTypeOf(type: ValueType): string {
  const sql = columnType(type, placesOf(type) ?? 0);
  return sql === 'text' ? 'text COLLATE "C"' : sql;
}

/** The fields that a plan fills, in its order; with the links of an open link that it fills, the others. */
export function filledBy(input: Omit<IncomingInput, 'transaction'>): Filled[] {
  const given = givenBy(input);
  const { openLinks = [] } = typeIn(input.workspace.model, input.type);
  const of = (link: string) => given.find(({ field }) => field.key === link);
  const emptied = openLinks.flatMap(({ links }) => {
    const heading = links.flatMap((link) => of(link)?.heading ?? [])[0];
    const missing = heading === undefined ? [] : links.filter((link) => !of(link));
    return missing.map((link): Omit<Filled, 'column'> => ({
      ...{ field: fieldIn(input.workspace.model, input.type, link), heading: certain(heading) },
      ...{ clears: false, lookup: null, open: [], isEmptied: true },
    }));
  });
  const all = [...given, ...emptied.map((one, at) => ({ ...one, column: `e_${at}` }))];
  return all.map((one) => {
    const { links = [] } = openLinks.find((open) => open.links.includes(one.field.key)) ?? {};
    return { ...one, open: all.filter(({ field }) => links.includes(field.key)).map(({ column }) => column) };
  });
}

function givenBy({ workspace, type, plan }: Omit<IncomingInput, 'transaction'>): Filled[] {
  const { model } = workspace;
  const fields = [...new Set(plan.columns.map(({ field }) => field))].filter((field) => field !== 'id');
  return fields.map((key, at): Filled => {
    const field = fieldIn(model, type, key);
    const columns = plan.columns.filter((column) => column.field === key);
    const target = field.type.kind === 'link' ? field.type.target : null;
    const parts =
      target === null
        ? []
        : columns.flatMap((column, part): LookupPart[] => {
            const name = foundBy(model, target, column);
            if (name === 'id') return [];
            const by = fieldIn(model, target, name);
            const as = by.type.kind === 'link' ? titleOf(model, by.type.target).type : by.type;
            return [{ by, heading: column.column, column: `l_${at}_${part}`, type: as }];
          });
    return {
      ...{ field, heading: firstIn(columns).column, column: `f_${at}` },
      ...{ clears: columns.some(({ clears }) => clears === true), open: [], isEmptied: false },
      lookup: parts.length > 0 ? { target: certain(target), parts } : null,
    };
  });
}

const titleOf = (model: Model, type: string): Field => fieldIn(model, type, typeIn(model, type).title);

/** Works out, by statements over the whole set, what becomes of the rows. Rows that are refused leave the set. */
export class Incoming {
  readonly filled: readonly Filled[];

  constructor(private readonly input: IncomingInput) {
    this.filled = filledBy(input);
  }

  /** A query of the records that the rows give a value for a field, an explicit empty included; `null` where they give none. */
  entered({ type, field }: FieldRef): string | null {
    const filled = type === this.input.type ? this.filled.find((one) => one.field.key === field) : undefined;
    if (!filled) return null;
    return `SELECT i.id FROM ${INCOMING} i${filled.clears ? '' : ` WHERE i.${filled.column} IS NOT NULL`}`;
  }

  private get table(): string {
    return tableOf(this.input.workspace.schema, this.input.type);
  }

  private run<T = Record<string, unknown>>(text: string, values: readonly unknown[] = []): Promise<T[]> {
    return run<T>(this.input.transaction, text, values);
  }

  /** The columns, in the order in which rows are copied. */
  get columns(): string[] {
    const given = this.filled.filter(({ isEmptied }) => !isEmptied);
    return [
      'row__line',
      'id',
      ...given.flatMap(({ column, lookup }) => lookup?.parts.map((part) => part.column) ?? [column]),
    ];
  }

  async make(): Promise<void> {
    const columns = this.filled.flatMap(({ field, column, lookup }) => [
      `${column} ${sqlTypeOf(field.type)}`,
      ...(lookup?.parts ?? []).map((part) => `${part.column} ${sqlTypeOf(part.type)}`),
    ]);
    await this.run(
      `CREATE TEMPORARY TABLE import__rows (${['row__line integer NOT NULL', 'id uuid NOT NULL', 'row__is_new boolean NOT NULL DEFAULT true', ...columns].join(', ')}) ON COMMIT DROP`,
    );
    await this.run(
      'CREATE TEMPORARY TABLE import__refused (line integer NOT NULL, field text NOT NULL, code text NOT NULL, message text NOT NULL) ON COMMIT DROP',
    );
  }

  async copy(lines: AsyncIterable<string>): Promise<void> {
    await copyLines(this.input.transaction, `${INCOMING} (${this.columns.join(', ')})`, lines);
  }

  /** Finds records that are there and the parents that are named, and refuses rows that can't be carried out. */
  async settle(): Promise<void> {
    await this.run('CREATE INDEX ON pg_temp.import__rows (id)');
    await this.run(`ANALYZE ${INCOMING}`);
    for (const filled of this.filled)
      if (filled.lookup && !this.isSelf(filled)) await this.findParents(filled);
    await this.findKnown();
    await this.drop();
    await this.run(`ANALYZE ${INCOMING}`);
    for (const filled of this.filled)
      if (filled.lookup && this.isSelf(filled)) await this.findParents(filled);
    await this.fillDefaults();
    await this.checkRequired();
    await this.checkOpenLinks();
    // A row that goes leaves others that name it, and keeps what it would have given up: a value, or its place in a hierarchy.
    let refused: number;
    do {
      refused = await this.numberRefused();
      await this.checkUnique();
      do {
        await this.drop();
        for (const filled of this.filled)
          if (filled.field.type.kind === 'link') await this.checkParents(filled);
      } while (await this.hasRefused());
      for (const filled of this.filled) if (this.isSelf(filled)) await this.checkLoops(filled);
      await this.drop();
    } while ((await this.numberRefused()) > refused);
  }

  private async numberRefused(): Promise<number> {
    const found = firstIn(
      await this.run<{ number: number }>(`SELECT count(*)::int AS number FROM ${REFUSED}`),
    );
    return found.number;
  }

  private isSelf({ field }: Filled): boolean {
    return field.type.kind === 'link' && field.type.target === this.input.type;
  }

  private async hasRefused(): Promise<boolean> {
    const found = firstIn(
      await this.run<{ has: boolean }>(
        `SELECT EXISTS (SELECT FROM ${REFUSED} r JOIN ${INCOMING} i ON i.row__line = r.line) AS has`,
      ),
    );
    return found.has;
  }

  /** Rows that have been refused take no part any more; why is kept. */
  private async drop(): Promise<void> {
    await this.run(`DELETE FROM ${INCOMING} i USING ${REFUSED} r WHERE r.line = i.row__line`);
  }

  /** Adds the rows of a query (`line`, `message`) to those refused, each once for a field. */
  private async refuse(
    field: string,
    code: ProblemCode,
    query: string,
    values: readonly unknown[] = [],
  ): Promise<void> {
    const at = values.length;
    await this.run(
      `INSERT INTO ${REFUSED} (line, field, code, message) SELECT q.line, $${at + 1}::text, $${at + 2}::text, q.message FROM (${query}) q`,
      [...values, field, code],
    );
  }

  /** Of a self link also among the rows of the file itself. */
  private async findParents({ field, heading, column, lookup }: Filled): Promise<void> {
    const { model } = this.input.workspace;
    const { target, parts } = certain(lookup);
    const { name: parent, plural } = typeIn(model, target);
    const given = `num_nonnulls(${parts.map((part) => `i.${part.column}`).join(', ')})`;
    const names = parts.map(({ by }) => by.name);
    if (parts.length > 1)
      await this.refuse(
        heading,
        'link.part',
        `SELECT i.row__line AS line, format('%s: it is found by %s together, and not all of them are filled in. Fill in all, or none.', $1::text, $2::text) AS message
          FROM ${INCOMING} i WHERE ${given} BETWEEN 1 AND ${parts.length - 1}`,
        [field.name, names.join(' and ')],
      );
    const values = parts.map((_, at) => `v${at}`).join(', ');
    await this.run(
      `CREATE TEMPORARY TABLE import__parent ON COMMIT DROP AS
        SELECT ${values}, min(id::text)::uuid AS id, count(*)::int AS number
          FROM (${this.candidates(certain(lookup))}) c GROUP BY ${values}`,
    );
    await this.run('ANALYZE pg_temp.import__parent');
    const isSame = parts.map((part, at) => `f.v${at} = i.${part.column}`).join(' AND ');
    await this.run(
      `UPDATE ${INCOMING} i SET ${column} = f.id FROM pg_temp.import__parent f WHERE ${isSame} AND f.number = 1`,
    );
    const told = parts
      .map((part, at) => `$${at + 3}::text || ' is “' || i.${part.column} || '”'`)
      .join(" || ' and ' || ");
    await this.refuse(
      heading,
      'link.none',
      `SELECT i.row__line AS line, format('%s: there is no %s whose %s. Correct it, or make that one first.', $1::text, $2::text, ${told}) AS message
        FROM ${INCOMING} i LEFT JOIN pg_temp.import__parent f ON ${isSame} WHERE ${given} = ${parts.length} AND f.id IS NULL`,
      [field.name, parent, ...names],
    );
    await this.refuse(
      heading,
      'link.several',
      `SELECT i.row__line AS line, format('%s: there are %s %s whose %s, so it isn’t clear which is meant. Find them by another field beside it, or by id.', $1::text, f.number, $2::text, ${told}) AS message
        FROM ${INCOMING} i JOIN pg_temp.import__parent f ON ${isSame} WHERE f.number > 1`,
      [field.name, plural, ...names],
    );
    await this.run('DROP TABLE pg_temp.import__parent');
  }

  /** Records that a link may name, with what they are found by: those that are there, and for a self link those of the file. */
  private candidates({ target, parts }: NonNullable<Filled['lookup']>): string {
    const [first] = parts as readonly [LookupPart, ...LookupPart[]];
    const there = `SELECT ${parts.map((part, at) => `${this.partOf(part)} AS v${at}`).join(', ')}, t.id
      FROM ${tableOf(this.input.workspace.schema, target)} t
      WHERE t.deleted_run IS NULL AND ${this.partOf(first)} IN (SELECT ${first.column} FROM ${INCOMING})`;
    const own = parts.flatMap(({ by }) => {
      const filled = this.filled.find(({ field }) => field.key === by.key);
      return filled && by.type.kind !== 'link' ? [`j.${filled.column}`] : [];
    });
    if (target !== this.input.type || own.length < parts.length) return there;
    const isNamed = `num_nulls(${own.join(', ')}) = 0`;
    return `${there} AND NOT EXISTS (SELECT FROM ${INCOMING} j WHERE j.id = t.id AND ${isNamed})
      UNION ALL SELECT ${own.join(', ')}, j.id FROM ${INCOMING} j WHERE ${isNamed}`;
  }

  /** What a record of the other type (`t`) is found by: its own value, or the title of what its link names. */
  private partOf({ by }: LookupPart): string {
    const column = `t.${columnOf(by.key)}`;
    if (by.type.kind !== 'link') return column;
    const { model, schema } = this.input.workspace;
    const { target } = by.type;
    return `(SELECT p.${columnOf(typeIn(model, target).title)} FROM ${tableOf(schema, target)} p WHERE p.id = ${column} AND p.deleted_run IS NULL)`;
  }

  /** Which rows are of records that are there. */
  private async findKnown(): Promise<void> {
    const { key } = this.input.plan;
    const { name, plural } = typeIn(this.input.workspace.model, this.input.type);
    if (key.length === 0 || (key.length === 1 && key[0] === 'id')) return this.findById(key.length > 0);
    const parts = key.map((one) => {
      if (one === 'id') return { of: 'i.id', is: 't.id', words: 'id' };
      const { column, field } = foundIn(this.filled, (filled) => filled.field.key === one);
      return { of: `i.${column}`, is: `t.${columnOf(one)}`, words: field.name };
    });
    const words = parts.map((part) => part.words).join(' and ');
    const list = parts.map(({ of }) => of).join(', ');
    await this.refuse(
      firstIn(key),
      'key.empty',
      `SELECT i.row__line AS line, format('%s is empty, so it can’t be told which %s this is. Fill it in.', $1::text, $2::text) AS message
        FROM ${INCOMING} i WHERE ${parts.map(({ of }) => `${of} IS NULL`).join(' OR ')}`,
      [words, name],
    );
    await this.refuseTwice(list, words);
    await this.run(
      `CREATE TEMPORARY TABLE import__known ON COMMIT DROP AS
        SELECT i.row__line AS line, min(t.id::text)::uuid AS id, count(*)::int AS number FROM ${INCOMING} i JOIN ${this.table} t
          ON t.deleted_run IS NULL AND ${parts.map(({ of, is }) => `${is} = ${of}`).join(' AND ')} GROUP BY i.row__line`,
    );
    await this.refuse(
      firstIn(key),
      'key.several',
      `SELECT k.line, format('%s %s have this %s already, so it isn’t clear which is meant. Choose a key that tells them apart.', k.number, $1::text, $2::text) AS message
        FROM pg_temp.import__known k WHERE k.number > 1`,
      [plural, words],
    );
    await this.run(
      `UPDATE ${INCOMING} i SET id = k.id, row__is_new = false FROM pg_temp.import__known k WHERE k.line = i.row__line AND k.number = 1`,
    );
    await this.run('DROP TABLE pg_temp.import__known');
    for (const { field, heading } of this.filled)
      if (field.type.kind === 'serial')
        await this.refuse(
          heading,
          'serial.none',
          `SELECT i.row__line AS line, format('%s: there is no %s with this number. Oikon gives the numbers of new ones: leave the row out, or choose another key.', $1::text, $2::text) AS message
            FROM ${INCOMING} i WHERE i.row__is_new`,
          [field.name, name],
        );
  }

  private async refuseTwice(list: string, words: string): Promise<void> {
    await this.refuse(
      this.input.plan.key[0] ?? 'id',
      'key.twice',
      `SELECT w.line, format('Line %s has the same %s. Leave one of the two out.', w.first, $1::text) AS message
        FROM (SELECT i.row__line AS line, min(i.row__line) OVER (PARTITION BY ${list}) AS first, num_nulls(${list}) AS empty FROM ${INCOMING} i) w
        WHERE w.line > w.first AND w.empty = 0`,
      [words],
    );
  }

  /** Rows that give an id: of a record that is there (where the id is the key), or of a new one. */
  private async findById(isKey: boolean): Promise<void> {
    if (!this.input.plan.columns.some(({ field }) => field === 'id')) return;
    const { name } = typeIn(this.input.workspace.model, this.input.type);
    await this.refuseTwice('i.id', 'id');
    if (isKey)
      await this.run(
        `UPDATE ${INCOMING} i SET row__is_new = false FROM ${this.table} t WHERE t.id = i.id AND t.deleted_run IS NULL`,
      );
    await this.refuse(
      'id',
      'id.taken',
      `SELECT i.row__line AS line, CASE WHEN t.deleted_run IS NULL
          THEN format('There is a %s with this id already. Make the id the key to change it, or leave the column out.', $1::text)
          ELSE format('The %s with this id is in the bin. Restore it first, or leave the row out.', $1::text) END AS message
        FROM ${INCOMING} i JOIN ${this.table} t ON t.id = i.id WHERE i.row__is_new`,
      [name],
    );
  }

  /** A new record has a field's default where its cell is empty. */
  private async fillDefaults(): Promise<void> {
    for (const { field, column } of this.filled) {
      const binds = new Binds();
      const value = defaultSql(field, binds);
      if (value === null) continue;
      await this.run(
        `UPDATE ${INCOMING} SET ${column} = ${value} WHERE row__is_new AND ${column} IS NULL`,
        binds.values,
      );
    }
  }

  private async checkRequired(): Promise<void> {
    const { model, plan } = this.input.workspace;
    for (const field of typeIn(model, this.input.type).fields) {
      if (!field.required || plan.keeper({ type: this.input.type, field: field.key })) continue;
      const filled = this.filled.find((one) => one.field.key === field.key);
      if (!filled && (field.default ?? null) !== null) continue;
      // What isn't filled by a column can't be missing in a record that is there.
      const where = filled
        ? `i.${filled.column} IS NULL${filled.lookup ? ` AND num_nonnulls(${filled.lookup.parts.map((part) => `i.${part.column}`).join(', ')}) = 0` : ''} AND ${filled.clears ? 'true' : 'i.row__is_new'}`
        : 'i.row__is_new';
      await this.refuse(
        filled?.heading ?? '',
        'edit.required',
        `SELECT i.row__line AS line, format('%s is required. Enter a value.', $1::text) AS message FROM ${INCOMING} i WHERE ${where}`,
        [field.name],
      );
    }
  }

  /** A record names at most one parent by an open link, and one where it is required. */
  private async checkOpenLinks(): Promise<void> {
    const { model } = this.input.workspace;
    for (const { name, links, required } of typeIn(model, this.input.type).openLinks ?? []) {
      const filled = this.filled.filter(({ field }) => links.includes(field.key));
      const given = filled.map(({ column, lookup }) =>
        lookup ? `COALESCE(i.${column}::text, i.${firstIn(lookup.parts).column}::text)` : `i.${column}::text`,
      );
      const number = given.length > 0 ? `num_nonnulls(${given.join(', ')})` : '0';
      const heading = filled[0]?.heading ?? '';
      await this.refuse(
        heading,
        'link.several',
        `SELECT i.row__line AS line, format('%s names one record, not several. Leave all but one of these cells empty.', $1::text) AS message
          FROM ${INCOMING} i WHERE ${number} > 1`,
        [name],
      );
      if (!required) continue;
      const kept = links.filter((link) => !filled.some(({ field, clears }) => clears && field.key === link));
      const isKept =
        kept.length > 0
          ? `num_nonnulls(${kept.map((link) => `t.${columnOf(link)}`).join(', ')}) > 0`
          : 'false';
      await this.refuse(
        heading,
        'edit.required',
        `SELECT i.row__line AS line, format('%s is required. Fill in one of its links.', $1::text) AS message FROM ${INCOMING} i
          WHERE ${number} = 0 AND (i.row__is_new OR NOT EXISTS (SELECT FROM ${this.table} t WHERE t.id = i.id AND ${isKept}))`,
        [name],
      );
    }
  }

  private async checkUnique(): Promise<void> {
    const { name } = typeIn(this.input.workspace.model, this.input.type);
    for (const { field, heading, column } of this.filled) {
      if (!field.unique) continue;
      const stored = columnOf(field.key);
      await this.refuse(
        heading,
        'value.taken',
        `SELECT i.row__line AS line, format('%s: “%s” stands in another %s already, and no two may have the same. Enter another.', $1::text, i.${column}, $2::text) AS message
          FROM ${INCOMING} i JOIN ${this.table} t ON t.${stored} = i.${column} AND t.deleted_run IS NULL AND t.id <> i.id
          WHERE NOT EXISTS (SELECT FROM ${INCOMING} j WHERE j.id = t.id AND j.${column} IS NOT NULL AND j.${column} <> t.${stored})
        UNION ALL SELECT w.line, format('%s: “%s” stands in line %s already, and no two may have the same. Enter another.', $1::text, w.value, w.first)
          FROM (SELECT row__line AS line, ${column}::text AS value, min(row__line) OVER (PARTITION BY ${column}) AS first FROM ${INCOMING} WHERE ${column} IS NOT NULL) w
          WHERE w.line > w.first`,
        [field.name, name],
      );
    }
  }

  /** Records that links name by id, or that were found, must be there: in the data, or for a self link in the file. */
  private async checkParents(filled: Filled): Promise<void> {
    const { field, heading, column } = filled;
    const target = (field.type as { target: string }).target;
    const inFile = this.isSelf(filled)
      ? `AND NOT EXISTS (SELECT FROM ${INCOMING} j WHERE j.id = i.${column})`
      : '';
    await this.refuse(
      heading,
      'link.gone',
      `SELECT i.row__line AS line, format('%s: there is no %s with the id %s. Make that one first, or leave the link out.', $1::text, $2::text, i.${column}) AS message
        FROM ${INCOMING} i LEFT JOIN ${tableOf(this.input.workspace.schema, target)} p ON p.id = i.${column} AND p.deleted_run IS NULL
        WHERE i.${column} IS NOT NULL AND p.id IS NULL ${inFile}`,
      [field.name, typeIn(this.input.workspace.model, target).name],
    );
  }

  /** Follows the links upward as they would stand afterwards. */
  private async checkLoops({ field, heading, column }: Filled): Promise<void> {
    const { type, workspace } = this.input;
    const title = columnOf(typeIn(workspace.model, type).title);
    const own = this.filled.find((one) => one.field.key === typeIn(workspace.model, type).title);
    const link = columnOf(field.key);
    await this.refuse(
      heading,
      'link.loop',
      `WITH RECURSIVE up AS (
          SELECT i.row__line AS line, i.id AS start, i.${column} AS at, ARRAY[i.id] AS path FROM ${INCOMING} i WHERE i.${column} IS NOT NULL
          UNION ALL
          SELECT u.line, u.start, COALESCE(i.${column}, t.${link}), u.path || u.at FROM up u
            LEFT JOIN ${INCOMING} i ON i.id = u.at LEFT JOIN ${this.table} t ON t.id = u.at
            WHERE u.at IS NOT NULL AND NOT u.at = ANY(u.path)
        )
        SELECT u.line, format('%s: it would lie within itself, by way of %s. Correct the chain.', $1::text,
            (SELECT string_agg('“' || COALESCE(${own ? `j.${own.column}, ` : ''}t.${title}, '?') || '”', ' → ' ORDER BY p.place)
              FROM unnest(u.path[2:] || u.start) WITH ORDINALITY AS p(step, place)
              LEFT JOIN ${INCOMING} j ON j.id = p.step LEFT JOIN ${this.table} t ON t.id = p.step)) AS message
        FROM up u WHERE u.at = u.start`,
      [field.name],
    );
  }

  /** What was refused, the first of them by line, and how many rows in all. */
  async refused(most: number): Promise<{ rows: RefusedRow[]; number: number }> {
    const rows = await this.run<{ line: number; field: string; code: ProblemCode; message: string }>(
      `SELECT line, field, code, message FROM ${REFUSED} ORDER BY line, field LIMIT ${most}`,
    );
    const count = firstIn(
      await this.run<{ number: number }>(`SELECT count(DISTINCT line)::int AS number FROM ${REFUSED}`),
    );
    return { rows: rows.map(({ field, ...row }) => ({ ...row, column: field })), number: count.number };
  }
}

/** A field's default as SQL; `null` where it has none. */
export function defaultSql(field: Field, binds: Binds): string | null {
  if ((field.default ?? null) === null) return null;
  const parsed = parseValue(field.type, field.default);
  return parsed.ok ? binds.add(toColumn(field.type, parsed.value), bindType(field.type)) : null;
}

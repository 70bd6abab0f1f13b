import { isFilledByRule } from '@/core/engine';
import { typeIn } from '@/core/model';
import { firstIn, placesOf, type ValueType } from '@/core/values';
import { copyLines } from '@/server/store/sql/copy-in';
import { Binds, columnOf, columnType, tableOf } from '@/server/store/sql/sql';
import { defaultSql, type Filled, INCOMING } from './incoming-fields';
import { IncomingRecords } from './incoming-records';

function sqlTypeOf(type: ValueType): string {
  const sql = columnType(type, placesOf(type) ?? 0);
  return sql === 'text' ? 'text COLLATE "C"' : sql;
}

/** Works out, by statements over the whole set, what becomes of the rows. Rows that are refused leave the set. */
export class Incoming extends IncomingRecords {
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
      const ref = { type: this.input.type, field: field.key };
      if (!field.required || plan.keeper(ref) || plan.filler(ref)) continue;
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
    const { model, plan } = this.input.workspace;
    const { type } = this.input;
    for (const open of typeIn(model, type).openLinks ?? []) {
      const { name, links, required } = open;
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
      if (!required || isFilledByRule(plan, type, open)) continue;
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
}

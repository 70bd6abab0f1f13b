import { typeIn } from '@/core/model';
import { certain, firstIn, foundIn } from '@/core/values';
import { columnOf, tableOf } from '@/server/store/sql/sql';
import { type Filled, INCOMING, type LookupPart } from './incoming-fields';
import { IncomingRows, REFUSED } from './incoming-rows';

/** Finds which records the rows are of, and which their links name. */
export abstract class IncomingRecords extends IncomingRows {
  /** Of a self link also among the rows of the file itself. */
  protected async findParents({ field, heading, column, lookup }: Filled): Promise<void> {
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
  protected candidates({ target, parts }: NonNullable<Filled['lookup']>): string {
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
  protected partOf({ by }: LookupPart): string {
    const column = `t.${columnOf(by.key)}`;
    if (by.type.kind !== 'link') return column;
    const { model, schema } = this.input.workspace;
    const { target } = by.type;
    return `(SELECT p.${columnOf(typeIn(model, target).title)} FROM ${tableOf(schema, target)} p WHERE p.id = ${column} AND p.deleted_run IS NULL)`;
  }

  /** Which rows are of records that are there. */
  protected async findKnown(): Promise<void> {
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
    await this.refuseUnknown(words);
  }

  /** In a file of corrections: rows whose record isn't there, unless they are refused already. */
  private async refuseUnknown(words: string): Promise<void> {
    if (this.input.plan.notFound !== 'refuse') return;
    await this.refuse(
      this.input.plan.key[0] ?? 'id',
      'key.none',
      `SELECT i.row__line AS line, format('There is no %s with this %s. Correct it, or let rows that aren’t found make new records.', $1::text, $2::text) AS message
        FROM ${INCOMING} i WHERE i.row__is_new AND NOT EXISTS (SELECT FROM ${REFUSED} r WHERE r.line = i.row__line)`,
      [typeIn(this.input.workspace.model, this.input.type).name, words],
    );
  }

  protected async refuseTwice(list: string, words: string): Promise<void> {
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
  protected async findById(isKey: boolean): Promise<void> {
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
    if (isKey) await this.refuseUnknown('id');
  }
}

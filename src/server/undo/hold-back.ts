import { firstIn, valueAt } from '@/core/values';
import { type Field, type Link, typeIn } from '@/core/model';
import { rulesById } from '@/core/plan';
import { columnOf, quote, run, tableOf } from '@/server/store/sql/sql';
import { CELLS, columnSqlOf, RECORDS, stagedFields, type Undoing } from './staged';

/** SQL: the record of a value `c` doesn't go into the bin, where it may hold anything. */
const STAYS = `NOT EXISTS (SELECT FROM ${RECORDS} g WHERE g.id = c.id AND g.what = 'delete' AND g.why IS NULL)`;

/**
 * Holds back what a save would refuse, and what would take along what others did since: each gets its reason. Holding one back may hold back
 * another, so it goes on until nothing is left to hold back.
 */
export async function holdBack(undoing: Undoing): Promise<void> {
  const held = new HoldBack(undoing);
  await held.claimed();
  for (let before = -1; before !== held.count;) {
    before = held.count;
    await held.goneRecords();
    await held.links();
    await held.unique();
    await held.openLinks();
    await held.hanging();
  }
}

class HoldBack {
  count = 0;

  constructor(private readonly undoing: Undoing) {}

  private async hold(text: string, values: readonly unknown[] = []): Promise<void> {
    const held = firstIn(
      await run<{ count: number }>(
        this.undoing.transaction,
        `WITH held AS (${text} RETURNING 1) SELECT count(*)::int AS count FROM held`,
        values,
      ),
    );
    this.count += held.count;
  }

  private table(type: string): string {
    return tableOf(this.undoing.workspace.schema, type);
  }

  private titleOf(type: string, alias: string): string {
    return `${alias}.${columnOf(typeIn(this.undoing.workspace.model, type).title)}`;
  }

  /** Types of records that come back or go, which decides what is looked for. */
  private async typesOf(what: 'delete' | 'restore'): Promise<string[]> {
    const found = await run<{ type: string }>(
      this.undoing.transaction,
      `SELECT DISTINCT type FROM ${RECORDS} WHERE what = $1 AND why IS NULL ORDER BY type`,
      [what],
    );
    return found.map(({ type }) => type);
  }

  /** A record that a rule made doesn't come back where the rule has made another for the same since. */
  async claimed(): Promise<void> {
    const { logged, workspace, run: id } = this.undoing;
    const s = quote(logged);
    const names = Object.fromEntries(
      Array.from(rulesById(workspace.plan), ([rule, { name }]) => [rule, name]),
    );
    await this.hold(
      `UPDATE ${RECORDS} r SET why = format('“%s” has made another since', COALESCE($2::jsonb ->> u.rule::text, 'the rule that made it'))
        FROM ${s}._unmade u WHERE u.undone_by = $1 AND u.redone_by IS NULL AND u.made = r.id AND r.what = 'restore' AND r.why IS NULL AND u.is_once
          AND EXISTS (SELECT FROM ${s}._made m WHERE m.rule = u.rule AND m.source = u.source AND m.is_once)`,
      [id, JSON.stringify(names)],
    );
  }

  /** Values of records that stay in the bin. */
  async goneRecords(): Promise<void> {
    await this.hold(
      `UPDATE ${CELLS} c SET why = 'its record is in the bin' FROM ${RECORDS} r
        WHERE r.id = c.id AND r.what = 'restore' AND r.why IS NOT NULL AND c.why IS NULL`,
    );
  }

  /** SQL: whether a record is there once the run is undone. */
  private thereSql(type: string, id: string): string {
    return `EXISTS (SELECT FROM ${this.table(type)} p LEFT JOIN ${RECORDS} e ON e.id = p.id AND e.why IS NULL
      WHERE p.id = ${id} AND (CASE e.what WHEN 'restore' THEN true WHEN 'delete' THEN false ELSE p.deleted_run IS NULL END))`;
  }

  /** SQL: what a link names once the run is undone. */
  private namedSql({ link }: Pick<Link, 'link'>, alias: string): string {
    const cell = `(SELECT c.before FROM ${CELLS} c WHERE c.id = ${alias}.id AND c.field = '${link}' AND c.why IS NULL)`;
    return `(CASE WHEN EXISTS (SELECT FROM ${CELLS} c WHERE c.id = ${alias}.id AND c.field = '${link}' AND c.why IS NULL) THEN (${cell} #>> '{}')::uuid ELSE ${alias}.${columnOf(link)} END)`;
  }

  /** Links that would name what isn't there, or lead back to their own record. */
  async links(): Promise<void> {
    const { model } = this.undoing.workspace;
    const fields = await stagedFields(this.undoing.transaction);
    for (const [type, keys] of fields)
      for (const link of model.linksFrom(type).filter((one) => keys.includes(one.link))) {
        const to = "(c.before #>> '{}')::uuid";
        await this.hold(
          `UPDATE ${CELLS} c SET why = COALESCE('“' || (SELECT ${this.titleOf(link.parent, 'p')} FROM ${this.table(link.parent)} p WHERE p.id = ${to}) || '”, which it named,', 'what it named') || ' is in the bin'
            WHERE c.type = $1 AND c.field = $2 AND c.why IS NULL AND c.before <> 'null' AND ${STAYS} AND NOT ${this.thereSql(link.parent, to)}`,
          [type, link.link],
        );
      }
    const back = await this.typesOf('restore');
    for (const type of back) for (const link of model.linksFrom(type)) await this.restored(link);
    for (const type of new Set([...fields.keys(), ...back]))
      for (const link of model.linksFrom(type)) {
        const isSet = back.includes(type) || valueAt(fields, type).includes(link.link);
        if (link.parent === type && isSet) await this.loops(link);
      }
  }

  /** Records that come back and name what isn't there: that link is emptied where this is its policy, and else they stay in the bin. */
  private async restored(link: Link): Promise<void> {
    const { type, parent, policy } = link;
    const named = this.namedSql(link, 't');
    const lost = `FROM ${RECORDS} r JOIN ${this.table(type)} t ON t.id = r.id
      WHERE r.type = $1 AND r.what = 'restore' AND r.why IS NULL AND ${named} IS NOT NULL AND NOT ${this.thereSql(parent, named)}`;
    if (policy === 'clear' && link.field.required !== true)
      await this.hold(
        `INSERT INTO ${CELLS} AS c (type, id, field, before, after, is_claimed) SELECT $1, t.id, $2, 'null', to_jsonb(t.${columnOf(link.link)}::text), false ${lost}
          ON CONFLICT (id, field) DO UPDATE SET before = 'null', why = NULL`,
        [type, link.link],
      );
    else
      await this.hold(
        `UPDATE ${RECORDS} x SET why = l.why FROM (SELECT t.id, COALESCE('“' || (SELECT ${this.titleOf(parent, 'p')} FROM ${this.table(parent)} p WHERE p.id = ${named}) || '”, which it names,', 'what it names') || ' is in the bin' AS why ${lost}) l
          WHERE l.id = x.id`,
        [type],
      );
  }

  /** Of records in a hierarchy that would lie inside themselves those are held back whose link goes back, or that come back. */
  private async loops(link: Link): Promise<void> {
    const { type, link: key } = link;
    const table = this.table(type);
    const found = await run<{ id: string }>(
      this.undoing.transaction,
      `WITH RECURSIVE start AS (
          SELECT c.id FROM ${CELLS} c WHERE c.type = $1 AND c.field = $2 AND c.why IS NULL AND c.before <> 'null' AND ${STAYS}
          UNION SELECT r.id FROM ${RECORDS} r WHERE r.type = $1 AND r.what = 'restore' AND r.why IS NULL
        ), up AS (
          SELECT s.id AS start, ${this.namedSql(link, 't')} AS at FROM start s JOIN ${table} t ON t.id = s.id
          UNION SELECT u.start, ${this.namedSql(link, 't')} FROM up u JOIN ${table} t ON t.id = u.at WHERE u.at <> u.start
        ) SELECT DISTINCT start::text AS id FROM up WHERE at = start`,
      [type, key],
    );
    if (found.length === 0) return;
    const ids = found.map(({ id }) => id);
    await this.hold(
      `UPDATE ${CELLS} c SET why = 'it would lie inside itself' WHERE c.id = ANY($1::uuid[]) AND c.field = $2 AND c.why IS NULL`,
      [ids, key],
    );
    await this.hold(
      `UPDATE ${RECORDS} r SET why = 'it would lie inside itself' WHERE r.id = ANY($1::uuid[]) AND r.what = 'restore' AND r.why IS NULL`,
      [ids],
    );
  }

  /** Values that no two records may have and that another has by now. */
  async unique(): Promise<void> {
    const { model } = this.undoing.workspace;
    const fields = await stagedFields(this.undoing.transaction);
    const types = new Set([...fields.keys(), ...(await this.typesOf('restore'))]);
    for (const type of types)
      for (const field of typeIn(model, type).fields.filter(({ unique }) => unique))
        await this.taken(type, field);
  }

  private async taken(type: string, field: Field): Promise<void> {
    const [table, column] = [this.table(type), columnOf(field.key)];
    const own = `SELECT c.id, ${columnSqlOf(field, 'c.before')} AS value FROM ${CELLS} c WHERE c.type = $1 AND c.field = $2 AND c.why IS NULL AND c.before <> 'null' AND ${STAYS}
      UNION SELECT t.id, t.${column} FROM ${RECORDS} r JOIN ${table} t ON t.id = r.id WHERE r.type = $1 AND r.what = 'restore' AND r.why IS NULL AND t.${column} IS NOT NULL
        AND NOT EXISTS (SELECT FROM ${CELLS} c WHERE c.id = t.id AND c.field = $2 AND c.why IS NULL)`;
    const clashes = `SELECT DISTINCT ON (o.id) o.id, ${this.titleOf(type, 'h')} AS title FROM (${own}) o JOIN (
        SELECT t.id, t.${column} AS value FROM ${table} t WHERE t.deleted_run IS NULL
          AND NOT EXISTS (SELECT FROM ${CELLS} c WHERE c.id = t.id AND c.field = $2 AND c.why IS NULL)
          AND NOT EXISTS (SELECT FROM ${RECORDS} r WHERE r.id = t.id AND r.what = 'delete' AND r.why IS NULL)
        UNION ALL SELECT * FROM (${own}) w
      ) x ON x.value = o.value AND x.id <> o.id JOIN ${table} h ON h.id = x.id ORDER BY o.id, x.id`;
    const found = await run<{ id: string; title: string | null }>(this.undoing.transaction, clashes, [
      type,
      field.key,
    ]);
    if (found.length === 0) return;
    const clash = JSON.stringify(
      found.map(({ id, title }) => ({
        id,
        why: `“${title ?? id}” has the same ${field.name} by now, and no two may`,
      })),
    );
    const from = 'FROM jsonb_to_recordset($1::jsonb) AS x(id uuid, why text)';
    await this.hold(
      `UPDATE ${CELLS} c SET why = x.why ${from} WHERE c.id = x.id AND c.field = $2 AND c.why IS NULL`,
      [clash, field.key],
    );
    await this.hold(
      `UPDATE ${RECORDS} r SET why = x.why ${from} WHERE r.id = x.id AND r.what = 'restore' AND r.why IS NULL`,
      [clash],
    );
  }

  /** Where one link of an open link stays, the others do. */
  async openLinks(): Promise<void> {
    await this.hold(
      `UPDATE ${CELLS} c SET why = o.why FROM ${CELLS} o WHERE o.id = c.id AND o.open = c.open AND o.why IS NOT NULL AND c.why IS NULL`,
    );
  }

  /**
   * A record that goes stays where something hangs under it that stays: what others made or moved since isn't taken along unasked. What goes
   * itself, or is moved away by the undo, doesn't hold it.
   */
  async hanging(): Promise<void> {
    const { model } = this.undoing.workspace;
    for (const type of await this.typesOf('delete'))
      for (const link of model.linksTo(type)) {
        const children = this.table(link.type);
        // Those that name it now, and those that would name it again.
        const naming = `SELECT t.id FROM ${children} t JOIN ${RECORDS} r ON r.id = t.${columnOf(link.link)} WHERE r.type = $1 AND r.what = 'delete' AND r.why IS NULL
          UNION SELECT c.id FROM ${CELLS} c WHERE c.type = $2 AND c.field = $3 AND c.why IS NULL AND c.before <> 'null'`;
        await this.hold(
          `UPDATE ${RECORDS} r SET why = h.why FROM (
              SELECT DISTINCT ON (n.named) n.named, format('the %s “%s” hangs under it now', $4::text, COALESCE(n.title::text, n.id::text)) AS why FROM (
                SELECT t.id, ${this.titleOf(link.type, 't')} AS title, ${this.namedSql(link, 't')} AS named FROM (${naming}) x JOIN ${children} t ON t.id = x.id
                WHERE ${this.thereSql(link.type, 't.id')}
              ) n ORDER BY n.named, n.id
            ) h WHERE h.named = r.id AND r.what = 'delete' AND r.why IS NULL`,
          [type, link.type, link.link, typeIn(model, link.type).name],
        );
      }
  }
}

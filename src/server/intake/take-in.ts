import { firstIn } from '@/core/values';
import { type Field, typeIn } from '@/core/model';
import { valueOfNone } from '@/core/rules';
import { valueView } from '@/core/verify';
import { type ImportSamples } from '@/core/api';
import type { Transaction } from 'sequelize';
import { changesSql } from '@/server/store/sets/changes-sql';
import { numberMade } from '@/server/store/write/serials';
import { Binds, bindType, columnOf, quote, readColumn, run, tableOf } from '@/server/store/sql/sql';
import { fromColumn, toColumn } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { readTitles, Wanted } from '@/server/store/session/titles';
import { INCOMING } from './incoming-fields';
import type { Filled } from './incoming-fields';
import { defaultSql } from './incoming-fields';

/** Records that rows change, with what stood in them. */
export const ALTERED = 'pg_temp.import__altered';

interface TakeIn {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  readonly type: string;
  readonly run: string;
}

/** Writes the incoming rows that were not refused: new records, and changes of those that are there with their ledger. */
export class Taken {
  constructor(
    private readonly into: TakeIn,
    private readonly filled: readonly Filled[],
  ) {}

  private get table(): string {
    return tableOf(this.into.workspace.schema, this.into.type);
  }

  private run<T = Record<string, unknown>>(text: string, values: readonly unknown[] = []): Promise<T[]> {
    return run<T>(this.into.transaction, text, values);
  }

  async write(): Promise<{ created: number; changed: number; same: number }> {
    await this.findAltered();
    const created = await this.create();
    const changed = await this.change();
    const rest = firstIn(
      await this.run<{ known: number }>(
        `SELECT count(*)::int AS known FROM ${INCOMING} WHERE NOT row__is_new`,
      ),
    );
    // Until PostgreSQL knows of the new records it plans as for a table without them.
    if (created + changed > 0) await this.run(`ANALYZE ${this.table}`);
    return { created, changed, same: rest.known - changed };
  }

  /** An empty cell leaves what is there, unless its column says that it clears. */
  private afterOf({ field, column, clears, open }: Filled): string {
    if (clears) return `i.${column}`;
    const kept = `COALESCE(i.${column}, t.${columnOf(field.key)})`;
    if (open.length === 0) return kept;
    const others = open.map((one) => `i.${one}`).join(', ');
    return `CASE WHEN num_nonnulls(${others}) > 0 THEN i.${column} ELSE ${kept} END`;
  }

  private async findAltered(): Promise<void> {
    const differs = this.filled.map(
      (one) => `${this.afterOf(one)} IS DISTINCT FROM t.${columnOf(one.field.key)}`,
    );
    const { fields } = typeIn(this.into.workspace.model, this.into.type);
    await this.run(
      `CREATE TEMPORARY TABLE import__altered ON COMMIT DROP AS
        SELECT i.row__line, t.id, ${fields.map(({ key }) => `t.${columnOf(key)}`).join(', ')}
          ${this.filled.map((one) => `, ${this.afterOf(one)} AS after_${one.column}`).join('')}
        FROM ${INCOMING} i JOIN ${this.table} t ON t.id = i.id
        WHERE NOT i.row__is_new AND (${differs.join(' OR ') || 'false'})`,
    );
  }

  private async create(): Promise<number> {
    const { model, plan } = this.into.workspace;
    const { type, run: runId } = this.into;
    const binds = new Binds();
    const number = binds.add(runId, 'bigint');
    const columns: string[] = [];
    const values: string[] = [];
    for (const field of typeIn(model, type).fields) {
      const keeper = plan.keeper({ type, field: field.key });
      const value = this.firstOf(field, keeper && valueOfNone(keeper), binds);
      if (value === null) continue;
      columns.push(columnOf(field.key));
      values.push(value);
    }
    const made = await this.run<{ number: number }>(
      `WITH made AS (
          INSERT INTO ${this.table} (id, created_run, changed_run${columns.map((name) => `, ${name}`).join('')})
            SELECT i.id, ${number}, ${number}${values.map((value) => `, ${value}`).join('')}
            FROM ${INCOMING} i WHERE i.row__is_new ORDER BY i.row__line RETURNING 1
        ) SELECT count(*)::int AS number FROM made`,
      binds.values,
    );
    const { transaction, workspace } = this.into;
    await numberMade({ transaction, workspace, type, run: runId });
    return firstIn(made).number;
  }

  /** What a field of a new record has: what a rule gives with nothing beneath it, the row's value, the default. */
  private firstOf(
    field: Field,
    whenNone: Parameters<typeof toColumn>[1] | undefined,
    binds: Binds,
  ): string | null {
    if (whenNone !== undefined) return binds.add(toColumn(field.type, whenNone), bindType(field.type));
    const filled = this.filled.find((one) => one.field.key === field.key);
    return filled ? `i.${filled.column}` : defaultSql(field, binds);
  }

  private async change(): Promise<number> {
    if (this.filled.length === 0) return 0;
    const { type, run: runId, workspace } = this.into;
    const binds = new Binds();
    const number = binds.add(runId, 'bigint');
    const sets = this.filled.map(({ field, column }) => `${columnOf(field.key)} = a.after_${column}`);
    const written = this.filled.map(({ field, column }) => ({
      ...{ field, before: `a.${columnOf(field.key)}`, after: `a.after_${column}` },
    }));
    const changes = changesSql(written, binds);
    const done = firstIn(
      await this.run<{ number: number }>(
        `WITH written AS (
          UPDATE ${this.table} t SET ${sets.join(', ')}, version = t.version + 1, changed_run = ${number}
            FROM ${ALTERED} a WHERE a.id = t.id RETURNING 1
        ), logged AS (
          INSERT INTO ${quote(workspace.schema)}._ledger (run, type, record, event, changes)
            SELECT ${number}, ${binds.add(type, 'text')}, a.id, 'changed', ${changes} FROM ${ALTERED} a
        ) SELECT count(*)::int AS number FROM written`,
        binds.values,
      ),
    );
    return done.number;
  }

  /** The first records that the rows make and change, for people. */
  async samples(most: number): Promise<ImportSamples> {
    const { workspace, type, transaction } = this.into;
    const title = columnOf(typeIn(workspace.model, type).title);
    const created = await this.run<{ line: number; title: string }>(
      `SELECT i.row__line AS line, t.${title} AS title FROM ${INCOMING} i JOIN ${this.table} t ON t.id = i.id WHERE i.row__is_new ORDER BY i.row__line LIMIT ${most}`,
    );
    const columns = this.filled.flatMap(({ field, column }) => [
      `${readColumn(field.type, `a.${columnOf(field.key)}`)} AS before_${column}`,
      `${readColumn(field.type, `a.after_${column}`)} AS now_${column}`,
    ]);
    const altered = await this.run<Record<string, unknown>>(
      `SELECT a.row__line AS line, t.id::text, t.${title} AS title${columns.map((column) => `, ${column}`).join('')}
        FROM ${ALTERED} a JOIN ${this.table} t ON t.id = a.id ORDER BY a.row__line LIMIT ${most}`,
    );
    const wanted = new Wanted();
    for (const row of altered)
      for (const { field, column } of this.filled)
        if (field.type.kind === 'link')
          for (const id of [row[`before_${column}`], row[`now_${column}`]])
            wanted.add(field.type.target, id as string | null);
    const titles = await readTitles(transaction, workspace, wanted);
    const nameOf = (id: string) => titles[id] ?? workspace.people.get(id);
    const view = (field: Field, stored: unknown) =>
      valueView(field.type, fromColumn(field.type, stored), nameOf);
    return {
      created,
      changed: altered.map((row) => ({
        ...{ line: row.line as number, id: row.id as string, title: row.title as string },
        changes: this.filled
          .filter(({ column }) => String(row[`before_${column}`]) !== String(row[`now_${column}`]))
          .map(({ field, column }) => ({
            ...{ field: field.key, name: field.name },
            ...{ before: view(field, row[`before_${column}`]), after: view(field, row[`now_${column}`]) },
          })),
      })),
    };
  }
}

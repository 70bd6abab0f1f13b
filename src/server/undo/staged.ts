import type { CellRef, Entry, Row } from '@/core/engine';
import { type Field, fieldIn } from '@/core/model';
import { certain, parseValue, placesOf, sameValue, type Value, valueAt } from '@/core/values';
import type { Transaction } from 'sequelize';
import { columnType, run } from '@/server/store/sql/sql';
import { readRows } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** An undo under way: what is decided of it lies in temporary tables, whatever its size. */
export interface Undoing {
  readonly transaction: Transaction;
  /** Where the records are: its tables, or a rehearsal's copies of them. */
  readonly workspace: LoadedWorkspace;
  /** Schema of the ledger in which the run that is undone stands. */
  readonly logged: string;
  /** The run that is undone. */
  readonly run: string;
}

/** Values that the run wrote; `why` one stays as it is, where it does. */
export const CELLS = 'pg_temp._undo_cell';
/** Records that the run made, deleted or brought back. */
export const RECORDS = 'pg_temp._undo_record';

export interface StagedCell {
  readonly type: string;
  readonly id: string;
  readonly field: string;
  /** In the forms in which they travel: what stood there before the run, and what stands there now. */
  readonly before: unknown;
  readonly after: unknown;
  /** What the run left there. */
  readonly left: unknown;
  /** A rule may keep the field for this record, and then gives it its value. */
  readonly isClaimed: boolean;
  /** The open link that the field is one of: its links go together. */
  readonly open: string | null;
  readonly why: string | null;
}

export interface StagedRecord {
  readonly type: string;
  readonly id: string;
  readonly what: 'delete' | 'restore';
  /** Where it goes into the bin again: the record with which it lies there, and the run that put it there. */
  readonly with: { readonly type: string; readonly id: string } | null;
  readonly inRun: string | null;
  readonly why: string | null;
}

export async function makeStage(transaction: Transaction): Promise<void> {
  await run(
    transaction,
    `CREATE TEMPORARY TABLE _undo_cell (type text NOT NULL, id uuid NOT NULL, field text NOT NULL, before jsonb NOT NULL, after jsonb NOT NULL, left_in jsonb,
        is_claimed boolean NOT NULL, open text, why text, PRIMARY KEY (id, field)) ON COMMIT DROP;
     CREATE TEMPORARY TABLE _undo_record (type text NOT NULL, id uuid PRIMARY KEY, what text NOT NULL, with_type text, with_id uuid, in_run bigint, why text) ON COMMIT DROP`,
  );
}

/** Once all is staged: what is looked up in it is found. */
export const analyzeStage = (transaction: Transaction): Promise<unknown> =>
  run(transaction, `ANALYZE ${CELLS}; ANALYZE ${RECORDS}`);

export async function stageCells(transaction: Transaction, cells: readonly StagedCell[]): Promise<void> {
  if (cells.length === 0) return;
  const rows = cells.map(({ isClaimed, left, ...cell }) => ({
    ...cell,
    is_claimed: isClaimed,
    left_in: left,
  }));
  await run(
    transaction,
    `INSERT INTO ${CELLS} (type, id, field, before, after, left_in, is_claimed, open, why)
      SELECT x.type, x.id, x.field, COALESCE(x.before, 'null'), COALESCE(x.after, 'null'), COALESCE(x.left_in, 'null'), x.is_claimed, x.open, x.why
      FROM jsonb_to_recordset($1::jsonb) AS x(type text, id uuid, field text, before jsonb, after jsonb, left_in jsonb, is_claimed boolean, open text, why text)`,
    [JSON.stringify(rows)],
  );
}

/** Values that aren't written back after all. */
export async function dropCells(transaction: Transaction, cells: readonly CellRef[]): Promise<void> {
  if (cells.length === 0) return;
  await run(
    transaction,
    `DELETE FROM ${CELLS} c USING jsonb_to_recordset($1::jsonb) AS x(id uuid, field text) WHERE c.id = x.id AND c.field = x.field`,
    [JSON.stringify(cells.map(({ id, field }) => ({ id, field })))],
  );
}

export async function stageRecords(
  transaction: Transaction,
  records: readonly StagedRecord[],
): Promise<void> {
  if (records.length === 0) return;
  const rows = records.map(({ with: root, inRun, ...record }) => ({
    ...record,
    ...{ in_run: inRun, with_type: root?.type ?? null, with_id: root?.id ?? null },
  }));
  await run(
    transaction,
    `INSERT INTO ${RECORDS} (type, id, what, with_type, with_id, in_run, why) SELECT x.type, x.id, x.what, x.with_type, x.with_id, x.in_run, x.why
      FROM jsonb_to_recordset($1::jsonb) AS x(type text, id uuid, what text, with_type text, with_id uuid, in_run bigint, why text)`,
    [JSON.stringify(rows)],
  );
}

/** How many records the undo writes, and of which types; those first of which there are most. */
export async function stagedTypes({
  transaction,
}: Pick<Undoing, 'transaction'>): Promise<{ readonly type: string; readonly records: number }[]> {
  return run(
    transaction,
    `SELECT type, count(DISTINCT id)::int AS records FROM (SELECT type, id FROM ${CELLS} WHERE why IS NULL UNION ALL SELECT type, id FROM ${RECORDS} WHERE why IS NULL) x
      GROUP BY type ORDER BY records DESC, type`,
  );
}

/** The fields that are written back, by type. */
export async function stagedFields(transaction: Transaction): Promise<Map<string, string[]>> {
  const found = await run<{ type: string; fields: string[] }>(
    transaction,
    `SELECT type, array_agg(DISTINCT field ORDER BY field) AS fields FROM ${CELLS} WHERE why IS NULL GROUP BY type`,
  );
  return new Map(found.map(({ type, fields }) => [type, fields]));
}

/** A value in the form in which it travels, as its column holds it. */
export function columnSqlOf({ type }: Field, wire: string): string {
  const text = `(${wire} #>> '{}')`;
  const column = columnType(type, placesOf(type) ?? 0);
  if (type.kind === 'money') return `(${wire} ->> 'amount')::${column}`;
  if (type.kind === 'anyMoney')
    return `(CASE WHEN jsonb_typeof(${wire}) = 'object' THEN ROW((${wire} ->> 'amount')::numeric, ${wire} ->> 'currency')::${column} END)`;
  if (type.kind === 'choices')
    return `(CASE WHEN jsonb_typeof(${wire}) = 'array' THEN ARRAY(SELECT jsonb_array_elements_text(${wire})) END)`;
  return `${text}::${column}`;
}

/** A value as the ledger has it; not ok where the field can't hold it any more. */
export const ledgerValue = ({ model }: LoadedWorkspace, type: string, field: string, wire: unknown) =>
  parseValue(fieldIn(model, type, field).type, wire);

/** What the undo writes as the engine takes it: each record as it stands and as it will. */
export async function entriesOf({
  transaction,
  workspace,
}: Pick<Undoing, 'transaction' | 'workspace'>): Promise<ReadonlyMap<string, Entry>> {
  interface Found {
    readonly id: string;
    readonly what: StagedRecord['what'] | null;
    readonly with_type: string | null;
    readonly with_id: string | null;
    readonly values: Readonly<Record<string, unknown>> | null;
  }
  const entries = new Map<string, Entry>();
  for (const { type } of await stagedTypes({ transaction })) {
    const found = await run<Found>(
      transaction,
      `SELECT COALESCE(c.id, r.id)::text AS id, r.what, r.with_type, r.with_id::text, c.values
        FROM (SELECT id, jsonb_object_agg(field, before) AS values FROM ${CELLS} WHERE type = $1 AND why IS NULL GROUP BY id) c
        FULL JOIN (SELECT * FROM ${RECORDS} WHERE type = $1 AND why IS NULL) r ON r.id = c.id ORDER BY 1`,
      [type],
    );
    const rows = new Map(
      (
        await readRows(
          transaction,
          workspace,
          type,
          found.map(({ id }) => id),
        )
      ).map((row) => [row.id, row]),
    );
    for (const { id, what, with_type, with_id, values } of found) {
      const before = valueAt(rows, id);
      const deletedWith =
        what === 'delete' ? (with_id ? { type: certain(with_type), id: with_id } : { type, id }) : null;
      entries.set(`${type} ${id}`, {
        ...{ type, id, kind: what ?? 'edit', before, ...writtenOver(workspace, before, values ?? {}, what) },
        ...{ index: 0, causes: new Map(), deletedWith },
      });
    }
  }
  return entries;
}

function writtenOver(
  workspace: LoadedWorkspace,
  row: Row,
  wires: Readonly<Record<string, unknown>>,
  what: StagedRecord['what'] | null,
): Pick<Entry, 'after' | 'fields'> {
  const values: Record<string, Value> = { ...row.values };
  let { errors } = row;
  const fields = new Set<string>();
  for (const [field, wire] of Object.entries(wires)) {
    const parsed = ledgerValue(workspace, row.type, field, wire);
    const value = parsed.ok ? parsed.value : null;
    if (sameValue(values[field] ?? null, value) && errors[field] === undefined) continue;
    values[field] = value;
    fields.add(field);
    if (errors[field] !== undefined) {
      const { [field]: _cleared, ...others } = errors;
      errors = others;
    }
  }
  const deleted = what === null ? row.deleted : what === 'delete';
  return { after: { ...row, deleted, values, errors }, fields };
}

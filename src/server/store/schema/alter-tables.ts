import { MERGE_ENTRY } from '@/server/store/sql/ledger-merge';
import type { Field, StorageStep } from '@/core/model';
import {
  certain,
  convertStored,
  isConverted,
  parseValue,
  placesOf,
  type Replaced,
  toWire,
  type Value,
} from '@/core/values';
import type { Transaction } from 'sequelize';
import {
  Binds,
  bindType,
  columnOf,
  columnType,
  keptColumns,
  reactingRows,
  quote,
  readColumn,
  run,
  snake,
  tableOf,
  uniqueName,
} from '@/server/store/sql/sql';
import { endSerials } from '@/server/store/write/serials';
import { bindField, bindOpenLink, columnSql, createTables, freeOpenLink, makeUnique } from './tables';
import { fromColumn, toColumn } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

type FieldStep = Extract<StorageStep, { kind: 'changeField' }>;

/** A value that a field has now, in how many records, and what becomes of it. */
export interface Mapped {
  /** As text, the way `readColumn` gives it: what records are found by. */
  readonly was: string;
  readonly before: Value;
  readonly after: Value;
  readonly fate: 'same' | 'altered' | 'lost';
  readonly records: number;
}

/** Each value that the field has, once, with what becomes of it: the core's own conversion, whatever the number of records. */
export async function mapValues(
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  type: string,
  { from, to, replaced }: { readonly from: Field; readonly to: Field; readonly replaced: Replaced },
): Promise<Mapped[]> {
  const column = readColumn(from.type, columnOf(from.key));
  const found = await run<{ was: string; value: unknown; records: number }>(
    transaction,
    `SELECT (${column})::text AS was, min(to_jsonb(${column})::text)::jsonb AS value, count(*)::int AS records
      FROM ${tableOf(schema, type)} WHERE ${columnOf(from.key)} IS NOT NULL GROUP BY 1`,
  );
  return found.map(({ was, value, records }) => {
    const before = fromColumn(from.type, value);
    const { value: after, fate } = convertStored(before, from.type, to.type, replaced);
    return { was, before, after, fate, records };
  });
}

interface Applying {
  readonly transaction: Transaction;
  /** The workspace as it is before the change. */
  readonly workspace: LoadedWorkspace;
  readonly run: string;
}

/** Does to the tables what one step asks for; values that are altered or lost go into the ledger under the run. */
export async function applyStep(applying: Applying, step: StorageStep): Promise<void> {
  const { transaction, workspace } = applying;
  const { schema } = workspace;
  switch (step.kind) {
    case 'addType':
      await createTables(transaction, schema, workspace.model, [step.type]);
      return;
    case 'removeType':
      await run(transaction, `DELETE FROM ${quote(schema)}._problem WHERE type = $1`, [step.type.key]);
      await run(transaction, `DROP TABLE ${tableOf(schema, step.type.key)}`);
      await endSerials(transaction, schema, step.type.key);
      return;
    case 'addField':
      await addField(transaction, schema, step);
      return;
    case 'removeField':
      await removeField(transaction, schema, step.type, step.field.key);
      return;
    case 'changeField':
      await changeField(applying, step);
      return;
    case 'openLink':
      await freeOpenLink(transaction, schema, step.type, (step.from ?? certain(step.to)).key);
      if (step.to) await bindOpenLink(transaction, schema, step.type, step.to);
  }
}

/** What a required field has from the first in records that are there already is its default. */
async function addField(
  transaction: Transaction,
  schema: string,
  { type, field }: Extract<StorageStep, { kind: 'addField' }>,
): Promise<void> {
  const table = tableOf(schema, type);
  await run(transaction, `ALTER TABLE ${table} ADD COLUMN ${columnSql({ ...field, required: false })}`);
  if (field.required) {
    const binds = new Binds();
    const value = binds.add(columnValue(field), bindType(field.type));
    await run(transaction, `UPDATE ${table} SET ${columnOf(field.key)} = ${value}`, binds.values);
    await run(transaction, `ALTER TABLE ${table} ALTER COLUMN ${columnOf(field.key)} SET NOT NULL`);
  }
  await bindField(transaction, schema, type, field);
}

async function removeField(
  transaction: Transaction,
  schema: string,
  type: string,
  key: string,
): Promise<void> {
  const rows = await run<{ name: string }>(
    transaction,
    `SELECT attname AS name FROM pg_attribute WHERE attrelid = $1::regclass AND attnum > 0 AND NOT attisdropped AND starts_with(attname, $2)`,
    [tableOf(schema, type), reactingRows(key)],
  );
  const kept = [...Object.values(keptColumns(key)), ...rows.map(({ name }) => quote(name))];
  const columns = [columnOf(key), ...kept].map((column) => `DROP COLUMN IF EXISTS ${column}`);
  await run(transaction, `ALTER TABLE ${tableOf(schema, type)} ${columns.join(', ')}`);
  await run(transaction, `DELETE FROM ${quote(schema)}._problem WHERE type = $1 AND field = $2`, [type, key]);
  await endSerials(transaction, schema, type, key);
}

async function changeField(applying: Applying, step: FieldStep): Promise<void> {
  const { transaction, workspace } = applying;
  const { from, to, type } = step;
  const table = tableOf(workspace.schema, type);
  const column = columnOf(to.key);
  if (from.unique)
    await run(transaction, `DROP INDEX ${quote(workspace.schema)}.${quote(uniqueName(type, to.key))}`);
  if (from.required) await run(transaction, `ALTER TABLE ${table} ALTER COLUMN ${column} DROP NOT NULL`);
  if (from.type.kind === 'serial' && to.type.kind !== 'serial')
    await endSerials(transaction, workspace.schema, type, to.key);
  if (isConverted(from.type, to.type)) await convert(applying, step);
  if (to.required) {
    await fillEmpty(applying, step);
    await run(transaction, `ALTER TABLE ${table} ALTER COLUMN ${column} SET NOT NULL`);
  }
  if (to.unique) await run(transaction, makeUnique(workspace.schema, type, to.key));
}

const AT_ONCE = 10_000;

/** Writes every value in its new form into a column beside the old one, which then gives way to it. */
async function convert({ transaction, workspace, run: runId }: Applying, step: FieldStep): Promise<void> {
  const { from, to, type } = step;
  const { schema } = workspace;
  const table = tableOf(schema, type);
  const mapped = await mapValues(transaction, workspace, type, step);
  const map = quote(`map_${snake(type)}_${snake(to.key)}`.slice(0, 60));
  await run(
    transaction,
    `CREATE TEMPORARY TABLE ${map} (was text, now jsonb, fate text, before jsonb, after jsonb) ON COMMIT DROP`,
  );
  for (let at = 0; at < mapped.length; at += AT_ONCE) {
    const rows = mapped.slice(at, at + AT_ONCE).map(({ was, before, after, fate }) => ({
      ...{ was, fate, now: toColumn(to.type, after) },
      ...{ before: toWire(from.type, before), after: toWire(to.type, after) },
    }));
    await run(
      transaction,
      `INSERT INTO ${map} SELECT * FROM jsonb_to_recordset($1::jsonb) AS x(was text, now jsonb, fate text, before jsonb, after jsonb)`,
      [JSON.stringify(rows)],
    );
  }
  await run(transaction, `ANALYZE ${map}`);
  const is = `(${readColumn(from.type, `t.${columnOf(from.key)}`)})::text = m.was`;
  await run(
    transaction,
    `INSERT INTO ${quote(schema)}._ledger AS l (run, type, record, event, changes)
      SELECT $1, $2, t.id, 'changed', jsonb_build_object($3::text, jsonb_build_array(m.before, m.after))
      FROM ${table} t JOIN ${map} m ON ${is} WHERE m.fate <> 'same'${MERGE_ENTRY}`,
    [runId, type, to.key],
  );
  const next = quote(`${snake(to.key)}__next`);
  const sqlType = columnType(to.type, placesOf(to.type) ?? 0);
  const collate = sqlType === 'text' ? ' COLLATE "C"' : '';
  const value =
    to.type.kind === 'choices'
      ? `CASE WHEN jsonb_typeof(m.now) = 'array' THEN ARRAY(SELECT jsonb_array_elements_text(m.now)) END`
      : `(m.now #>> '{}')::${sqlType}`;
  await run(transaction, `ALTER TABLE ${table} ADD COLUMN ${next} ${sqlType}${collate}`);
  await run(
    transaction,
    `UPDATE ${table} t SET ${next} = ${value},
        version = t.version + CASE WHEN m.fate = 'same' THEN 0 ELSE 1 END,
        changed_run = CASE WHEN m.fate = 'same' THEN t.changed_run ELSE $1 END
      FROM ${map} m WHERE ${is}`,
    [runId],
  );
  await run(transaction, `ALTER TABLE ${table} DROP COLUMN ${columnOf(from.key)}`);
  await run(transaction, `ALTER TABLE ${table} RENAME COLUMN ${next} TO ${columnOf(to.key)}`);
}

/** A field that becomes required has the value given for that where it is empty. */
async function fillEmpty({ transaction, workspace, run: runId }: Applying, step: FieldStep): Promise<void> {
  const { to, type, whereEmpty } = step;
  const value = columnValue({ ...to, default: whereEmpty });
  if (value === null) return; // where some are empty, SET NOT NULL refuses; the rehearsal has said so by name
  const table = tableOf(workspace.schema, type);
  await run(
    transaction,
    `INSERT INTO ${quote(workspace.schema)}._ledger (run, type, record, event, changes)
      SELECT $1, $2, id, 'changed', jsonb_build_object($3::text, jsonb_build_array(NULL, $4::jsonb))
      FROM ${table} WHERE ${columnOf(to.key)} IS NULL
      ON CONFLICT (type, record, run) DO UPDATE SET changes = _ledger.changes ||
        jsonb_build_object($3::text, jsonb_build_array(_ledger.changes -> $3::text -> 0, $4::jsonb))`,
    [runId, type, to.key, JSON.stringify(whereEmpty)],
  );
  await run(
    transaction,
    `UPDATE ${table} SET ${columnOf(to.key)} = $1::${bindType(to.type)}, version = version + 1, changed_run = $2 WHERE ${columnOf(to.key)} IS NULL`,
    [value, runId],
  );
}

/** A field's default as its column takes it; `null` where it has none that fits. */
function columnValue(field: Field): unknown {
  const parsed = parseValue(field.type, field.default ?? null);
  return parsed.ok ? toColumn(field.type, parsed.value) : null;
}

import { type Field, typeIn } from '@/core/model';
import type { Plan } from '@/core/plan';
import { isHandOn } from '@/core/rules';
import { type Kind, placesOf } from '@/core/values';
import type { LargeUndoView, UndoView } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { effectsOf, type Working } from '../intake/effects';
import { shadowOf, SHADOW_RUN } from '../intake/shadow';
import { undoOf } from '../queries/undo';
import { Refusal } from '../refusal';
import { changesSql } from '../store/changes-sql';
import { fillAfter } from '../store/fill-after';
import { insertRun } from '../store/run-writer';
import { Binds, columnOf, columnType, quote, run, tableOf } from '../store/sql';
import { inAlone, inRehearsal } from '../store/transactions';
import { type LoadedWorkspace, loadWorkspace } from '../store/workspace';
import { checkPerson } from '../queries/people';

export interface UndoImportInput {
  readonly workspace: string;
  readonly person: string;
  /** The run that took a file in. */
  readonly run: string;
}

/** Runs that may have written very many records: files, lists, and saves from which as many follow. */
const isLarge = (kind: unknown): boolean => kind === 'import' || kind === 'listEdit' || kind === 'save';

/** What undoing a run would do: its edits the other way round, or for an import of more records than those may be, the whole set. */
export async function undoView(workspace: LoadedWorkspace, id: string): Promise<UndoView> {
  try {
    return await undoOf(workspace, id);
  } catch (error) {
    if (!(error instanceof Refusal && error.code === 'undo.size' && isLarge(error.data.kind))) throw error;
    return { run: id, edits: [], left: [], large: await rehearseUndo(workspace.key, id) };
  }
}

/** What undoing an import would do, worked out on temporary copies; saves nothing and locks no record. */
export async function rehearseUndo(key: string, importRun: string): Promise<LargeUndoView> {
  const known = await loadWorkspace(key);
  return inRehearsal(known, async (transaction, workspace) => {
    const type = await typeOf(transaction, workspace, importRun);
    const shadow = await shadowOf(transaction, workspace, { type, person: null });
    return undo({ transaction, workspace: shadow, runId: SHADOW_RUN }, type, importRun, workspace.schema);
  });
}

/**
 * Undoes an import of any size by statements over the whole set: records that it made go into the bin where nobody changed them and
 * nothing hangs under them, values that it changed are written back where they are still its own; rules are worked out after it.
 */
export function undoImport(input: UndoImportInput): Promise<LargeUndoView & { readonly undoneBy: string }> {
  return inAlone(input.workspace, async ({ workspace, transaction }) => {
    checkPerson(workspace, input.person);
    const type = await typeOf(transaction, workspace, input.run);
    const info = { kind: 'save', person: input.person, note: `Undo of run ${input.run}` } as const;
    const runId = await insertRun(transaction, workspace.schema, info);
    const done = await undo({ transaction, workspace, runId }, type, input.run, workspace.schema);
    if (done.deleted + done.writtenBack === 0)
      throw new Refusal(
        409,
        'undo.nothing',
        'Nothing of this import can be undone any more: everything was changed since.',
      );
    return { ...done, undoneBy: runId };
  });
}

/** The one type of record that an import took in. */
async function typeOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  importRun: string,
): Promise<string> {
  const s = quote(workspace.schema);
  const [found] = /^\d{1,18}$/.test(importRun)
    ? await run<{ kind: string }>(transaction, `SELECT kind FROM ${s}._run WHERE id = $1`, [importRun])
    : [];
  if (!isLarge(found?.kind))
    throw new Refusal(409, 'undo.kind', `Run ${importRun} took in or edited no list. Undo it by its edits.`);
  const types: string[] = [];
  for (const { key } of workspace.model.types) {
    const [has] = await run<{ has: boolean }>(
      transaction,
      `SELECT EXISTS (SELECT FROM ${tableOf(workspace.schema, key)} WHERE created_run = $1)
          OR EXISTS (SELECT FROM ${s}._ledger WHERE run = $1 AND type = $2
            AND EXISTS (SELECT FROM jsonb_object_keys(changes) k WHERE NOT sources ? k)) AS has`,
      [importRun, key],
    );
    if (has!.has) types.push(key);
  }
  const [type] = types;
  if (!type) throw new Refusal(409, 'undo.nothing', `Nothing of run ${importRun} is there any more.`);
  if (found!.kind === 'save') await checkSave(transaction, workspace, importRun, types);
  return type;
}

/** A save of so many records is undone as a set where people only entered values of one type: what went or came back with others isn't told so. */
async function checkSave(
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  id: string,
  types: readonly string[],
): Promise<void> {
  const s = quote(schema);
  const [found] = await run<{ moved: boolean; made: boolean }>(
    transaction,
    `SELECT EXISTS (SELECT FROM ${s}._ledger WHERE run = $1 AND event <> 'changed') AS moved,
       EXISTS (SELECT FROM ${s}._made WHERE run = $1) AS made`,
    [id],
  );
  if (types.length === 1 && !found!.moved && !found!.made) return;
  const why = found!.moved
    ? 'records went into the bin in it, or came back'
    : found!.made
      ? 'rules made records in it'
      : 'people changed records of several types in it';
  throw new Refusal(409, 'undo.size', `Run ${id} wrote too many records to be undone at once, since ${why}.`);
}

const GOING = 'pg_temp.undo__going';
const BACK = 'pg_temp.undo__back';

async function undo(
  working: Working,
  type: string,
  importRun: string,
  logged: string,
): Promise<LargeUndoView> {
  const { transaction, workspace, runId } = working;
  const table = tableOf(workspace.schema, type);
  const kept = await findGoing(working, type, importRun);
  const { writtenBack, leftValues } = await writeBack(working, {
    type,
    importRun,
    logged,
    into: 'undo__back',
  });
  const handed = [...handedTypes(workspace.plan)].filter((other) => other !== type);
  for (const [at, other] of handed.entries())
    await writeBack(working, { type: other, importRun, logged, into: `undo__handed_${at}` });
  const s = quote(workspace.schema);
  const [deleted] = await run<{ number: number }>(
    transaction,
    `WITH gone AS (
        UPDATE ${table} t SET deleted_run = $1, changed_run = $1, version = t.version + 1 FROM ${GOING} g WHERE g.id = t.id RETURNING t.id
      ), logged AS (
        INSERT INTO ${s}._ledger (run, type, record, event, changes) SELECT $1, $2, id, 'deleted', '{}' FROM gone
      ) SELECT count(*)::int AS number FROM gone`,
    [runId, type],
  );
  await run(transaction, `ANALYZE ${table}`);
  const filled = await fillAfter({
    acting: 'onNone',
    ...{ transaction, workspace, run: runId, isEveryPace: runId === SHADOW_RUN },
    written: {
      type,
      also: handed,
      parents: (link) => `SELECT t.${columnOf(link)} FROM ${table} t JOIN ${GOING} g ON g.id = t.id
        UNION SELECT t.${columnOf(link)} FROM ${table} t JOIN ${BACK} b ON b.id = t.id
        UNION SELECT b.${columnOf(link)} FROM ${BACK} b`,
    },
  });
  const effects = await effectsOf(working, filled);
  return { deleted: deleted!.number, writtenBack, leftRecords: kept, leftValues, effects };
}

/** Records that the import made and that can go: untouched since, with nothing under them that stays. Answers how many can't. */
async function findGoing(
  { transaction, workspace }: Working,
  type: string,
  importRun: string,
): Promise<number> {
  const table = tableOf(workspace.schema, type);
  await run(
    transaction,
    `CREATE TEMPORARY TABLE undo__going ON COMMIT DROP AS
      SELECT id FROM ${table} WHERE created_run = ${BigInt(importRun)} AND deleted_run IS NULL AND version = 1`,
  );
  await run(transaction, `CREATE UNIQUE INDEX ON ${GOING} (id); ANALYZE ${GOING}`);
  for (let hasMore = true; hasMore;) {
    hasMore = false;
    for (const { type: child, link } of workspace.model.linksTo(type)) {
      const stays = child === type ? `AND NOT EXISTS (SELECT FROM ${GOING} o WHERE o.id = c.id)` : '';
      const [dropped] = await run<{ number: number }>(
        transaction,
        `WITH kept AS (
            DELETE FROM ${GOING} g USING ${tableOf(workspace.schema, child)} c
              WHERE c.${columnOf(link)} = g.id AND c.deleted_run IS NULL ${stays} RETURNING g.id
          ) SELECT count(*)::int AS number FROM kept`,
      );
      // A record that stays keeps those that it hangs under.
      hasMore ||= child === type && dropped!.number > 0;
    }
  }
  const [left] = await run<{ number: number }>(
    transaction,
    `SELECT count(*)::int AS number FROM ${table} t WHERE created_run = $1 AND deleted_run IS NULL
      AND NOT EXISTS (SELECT FROM ${GOING} g WHERE g.id = t.id)`,
    [importRun],
  );
  return left!.number;
}

/** A value in the form in which it travels, as its column holds it. */
function columnSqlOf({ type }: Field, wire: string): string {
  const text = `(${wire} #>> '{}')`;
  const forms: Partial<Record<Kind, string>> = {
    money: `(${wire} ->> 'amount')`,
    choices: `(CASE WHEN jsonb_typeof(${wire}) = 'array' THEN ARRAY(SELECT jsonb_array_elements_text(${wire})) END)`,
  };
  return `${forms[type.kind] ?? text}::${columnType(type, placesOf(type) ?? 0)}`;
}

/** Types that rules hand values on to, at creation or on change. */
const handedTypes = (plan: Plan): Set<string> =>
  new Set(plan.rules.filter(isHandOn).map(({ writes }) => writes.type));

interface WriteBack {
  readonly type: string;
  readonly importRun: string;
  /** The schema of the ledger. */
  readonly logged: string;
  /** Name of the temporary table of what is written back. */
  readonly into: string;
}

/** Writes back what people entered and what was handed on, where it is still what the run left. */
async function writeBack(
  { transaction, workspace, runId }: Working,
  { type, importRun, logged, into }: WriteBack,
): Promise<{ writtenBack: number; leftValues: number }> {
  const { model, plan } = workspace;
  const back = `pg_temp.${into}`;
  const isHanded = (field: string) =>
    plan.rules.some((rule) => isHandOn(rule) && rule.writes.type === type && rule.writes.field === field);
  const table = tableOf(workspace.schema, type);
  const fields = typeIn(model, type).fields.filter(({ key }) => !plan.keeper({ type, field: key }));
  const binds = new Binds();
  const [was, is] = [binds.add(importRun, 'bigint'), binds.add(type, 'text')];
  const parts = fields.map((field) => {
    const key = binds.add(field.key, 'text');
    const column = columnOf(field.key);
    const entered = `l.changes ? ${key}${isHanded(field.key) ? '' : ` AND NOT l.sources ? ${key}`}`;
    const after = columnSqlOf(field, `(l.changes -> ${key} -> 1)`);
    const before = columnSqlOf(field, `(l.changes -> ${key} -> 0)`);
    const parent =
      field.type.kind === 'link'
        ? ` AND (${before} IS NULL OR EXISTS (SELECT FROM ${tableOf(workspace.schema, field.type.target)} p WHERE p.id = ${before} AND p.deleted_run IS NULL))`
        : '';
    const isOwn = `${entered} AND t.${column} IS NOT DISTINCT FROM ${after}${parent}`;
    return { field, column, key, entered, isOwn, before };
  });
  // The columns are those from before the undo; `back_…` is what will stand there.
  await run(
    transaction,
    `CREATE TEMPORARY TABLE ${into} (LIKE ${table}) ON COMMIT DROP;
     ALTER TABLE ${back} ADD COLUMN entered integer, ADD COLUMN own integer${parts
       .map(
         ({ field, column }) =>
           `, ADD COLUMN ${backOf(column)} ${columnType(field.type, placesOf(field.type) ?? 0)}`,
       )
       .join('')}`,
  );
  const copied = ['id', 'version', 'created_run', 'changed_run', ...parts.map(({ column }) => column)];
  const count = (of: (part: (typeof parts)[number]) => string) =>
    parts.map((part) => `(CASE WHEN ${of(part)} THEN 1 ELSE 0 END)`).join(' + ') || '0';
  await run(
    transaction,
    `INSERT INTO ${back} (${copied.join(', ')}, entered, own${parts.map(({ column }) => `, ${backOf(column)}`).join('')})
      SELECT ${copied.map((column) => `t.${column}`).join(', ')}, ${count((part) => part.entered)}, ${count((part) => part.isOwn)}
        ${parts.map(({ column, isOwn, before }) => `, CASE WHEN ${isOwn} THEN ${before} ELSE t.${column} END`).join('')}
      FROM ${quote(logged)}._ledger l JOIN ${table} t ON t.id = l.record
      WHERE l.run = ${was} AND l.type = ${is} AND l.event = 'changed' AND t.deleted_run IS NULL`,
    binds.values,
  );
  const [numbers] = await run<{ back: number; left: number }>(
    transaction,
    `SELECT (count(*) FILTER (WHERE own > 0))::int AS back, COALESCE(sum(entered - own), 0)::int AS left FROM ${back}`,
  );
  await run(transaction, `DELETE FROM ${back} WHERE own = 0`);
  const log = new Binds();
  const number = log.add(runId, 'bigint');
  const written = parts.map(({ field, column }) => ({
    ...{ field, before: `b.${column}`, after: `b.${backOf(column)}` },
  }));
  const changes = changesSql(written, log);
  if (parts.length > 0)
    await run(
      transaction,
      `WITH written AS (
          UPDATE ${table} t SET ${parts.map(({ column }) => `${column} = b.${backOf(column)}`).join(', ')}, version = t.version + 1, changed_run = ${number}
            FROM ${back} b WHERE b.id = t.id
        ) INSERT INTO ${quote(workspace.schema)}._ledger (run, type, record, event, changes)
          SELECT ${number}, ${log.add(type, 'text')}, b.id, 'changed', ${changes} FROM ${back} b`,
      log.values,
    );
  return { writtenBack: numbers!.back, leftValues: numbers!.left };
}

const backOf = (column: string): string => quote(`back__${column.replaceAll('"', '')}`);

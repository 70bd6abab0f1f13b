import type { WireEdit } from '@/core/engine';
import { type Bundle, type BundleRecord } from '@/core/intake';
import { type Field, typeIn } from '@/core/model';
import type { Plan } from '@/core/plan';
import { sameData, toWire, type WireValue, writeCount } from '@/core/values';
import type { RecordDifference } from '@/core/api';
import type { Transaction } from 'sequelize';
import { MOST_EDITS } from '@/server/limits';
import { claimedOn } from '@/server/queries/records/claimed';
import { Refusal } from '@/server/refusal';
import { run, tableOf } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { readRows, rowColumns, rowFrom } from '@/server/store/sql/columns';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { readBundle } from './read-bundle';

const AT_ONCE = 2_000;
const MOST_SHOWN = 8;

/** What a bundle's new records have: what people enter. Rules give the rest again, and Oikon the serial numbers. */
const enteredIn = ({ model, plan }: { model: LoadedWorkspace['model']; plan: Plan }, type: string): Field[] =>
  typeIn(model, type).fields.filter(
    (field) => field.type.kind !== 'serial' && !plan.keeper({ type, field: field.key }),
  );

/** What of a bundle's records, type by type, the workspace doesn't have alike. Empty for a bundle without records. */
export async function compareRecords(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  bundle: Bundle,
): Promise<RecordDifference[]> {
  const differences: RecordDifference[] = [];
  for (const { key: type, name, plural } of workspace.model.types) {
    const edits = await editsOf(transaction, workspace, bundle, type);
    for (const kind of ['new', 'changed', 'gone'] as const) {
      const own = edits.filter((one) => one.kind === kind);
      if (own.length === 0) continue;
      const titles = own.slice(0, MOST_SHOWN).map(({ title }) => title);
      differences.push({ id: `${type} ${kind}`, type, name, plural, kind, records: own.length, titles });
    }
  }
  return differences;
}

/** The edits that take chosen differences over: to be rehearsed and saved as any others. */
export async function recordEdits(
  key: string,
  { bundle: text, chosen }: { readonly bundle: string; readonly chosen: readonly string[] },
): Promise<WireEdit[]> {
  const bundle = await readBundle(text);
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const edits: WireEdit[] = [];
    for (const { key: type } of workspace.model.types) {
      const kinds = ['new', 'changed', 'gone'].filter((kind) => chosen.includes(`${type} ${kind}`));
      if (kinds.length === 0) continue;
      const own = await editsOf(transaction, workspace, bundle, type);
      edits.push(...own.filter(({ kind }) => kinds.includes(kind)).map(({ edit }) => edit));
    }
    if (edits.length > MOST_EDITS) {
      const message = `These are ${writeCount(edits.length)} records; at most ${writeCount(MOST_EDITS)} are taken over at once. Choose fewer, or import them as a file.`;
      throw new Refusal(413, 'bundle.records', message);
    }
    return edits;
  });
}

interface RecordEdit {
  readonly kind: RecordDifference['kind'];
  readonly title: string;
  readonly edit: WireEdit;
}

/** What would make the records of one type those of the bundle; without what rules keep in step there. */
async function editsOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  bundle: Bundle,
  type: string,
): Promise<RecordEdit[]> {
  const given = (bundle.records ?? []).filter((record) => record.type === type);
  if (!bundle.records || !bundle.types.some(({ key }) => key === type)) return [];
  const { title } = typeIn(workspace.model, type);
  const entered = enteredIn(workspace, type);
  const edits: RecordEdit[] = [];
  for (let at = 0; at < given.length; at += AT_ONCE) {
    const some = given.slice(at, at + AT_ONCE);
    const rows = await readRows(
      transaction,
      workspace,
      type,
      some.map(({ id }) => id),
    );
    const known = new Map(rows.map((row) => [row.id, row]));
    const claimed = await claimedOn(transaction, workspace, rows);
    for (const record of some) {
      const row = known.get(record.id);
      const named = { title: String(record.values[title] ?? record.id) };
      const ref = { type, id: record.id };
      if (!row)
        edits.push({
          kind: 'new',
          ...named,
          edit: { kind: 'create', ...ref, values: valuesOf(entered, record) },
        });
      else if (row.deleted) edits.push({ kind: 'new', ...named, edit: { kind: 'restore', ...ref } });
      else {
        const kept = claimed.get(row.id) ?? [];
        const open = entered.filter(({ key }) => !kept.includes(key));
        const values = changedIn(open, record, (field) => toWire(field.type, row.values[field.key] ?? null));
        const edit = { kind: 'edit', ...ref, version: row.version, values } as const;
        if (Object.keys(values).length > 0) edits.push({ kind: 'changed', ...named, edit });
      }
    }
  }
  return [...edits, ...(await goneIn(transaction, workspace, type, given))];
}

const valuesOf = (entered: readonly Field[], { values }: BundleRecord): Record<string, WireValue> =>
  Object.fromEntries(
    entered.flatMap(({ key }) => (values[key] === undefined ? [] : [[key, values[key]] as const])),
  );

function changedIn(
  entered: readonly Field[],
  { values }: BundleRecord,
  standing: (field: Field) => WireValue,
): Record<string, WireValue> {
  const changed: Record<string, WireValue> = {};
  for (const field of entered) {
    const wanted = values[field.key] ?? null;
    if (!sameData(wanted, standing(field))) changed[field.key] = wanted;
  }
  return changed;
}

/** Records that are there and not in the bundle. */
async function goneIn(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: string,
  given: readonly BundleRecord[],
): Promise<RecordEdit[]> {
  const { title } = typeIn(workspace.model, type);
  const found = await run(
    transaction,
    `SELECT ${rowColumns(workspace, type, 't')} FROM ${tableOf(workspace.schema, type)} t
      WHERE t.deleted_run IS NULL AND NOT t.id = ANY($1::uuid[]) ORDER BY t.id LIMIT ${MOST_EDITS + 1}`,
    [given.map(({ id }) => id)],
  );
  const rows = found.map((row) => rowFrom(workspace, type, row));
  return rows.map(({ id, version, values }) => ({
    ...{ kind: 'gone', title: String(values[title]) },
    edit: { kind: 'delete', type, id, version },
  }));
}

import { type CellRef, type Change, recordKey, type RecordRef, type Write } from '@/core/engine';
import { fieldIn } from '@/core/model';
import { toWire } from '@/core/values';
import { type Transaction } from 'sequelize';
import { columnOf, quote, run, snake, tableOf } from './sql';
import { fieldColumnType, toColumn } from './values';
import type { LoadedWorkspace } from './workspace';

/** What a run is, for its row and the ledger. */
export interface RunInfo {
  readonly kind: 'save' | 'load' | 'live' | 'pause';
  /** Who started it; `null` for the program itself. */
  readonly person: string | null;
  readonly ruleVersion?: string;
  readonly note?: string;
}

/** Adds the row of a run and answers its number. */
export async function insertRun(transaction: Transaction, schema: string, info: RunInfo): Promise<string> {
  const [row] = await run<{ id: string }>(
    transaction,
    `INSERT INTO ${quote(schema)}.run (kind, person, rule_version, note) VALUES ($1, $2, $3, $4) RETURNING id::text`,
    [info.kind, info.person, info.ruleVersion ?? null, info.note ?? ''],
  );
  return row!.id;
}

/** All that a run does to one record. */
interface Pending extends RecordRef {
  kind: Write['kind'];
  isEdited: boolean;
  values: Record<string, unknown>;
}

/**
 * Writes what a run changes: records now and then, the ledger and the problems at its end. Values are bound as one JSON
 * document for each statement, decimals as digits.
 */
export class RunWriter {
  #run: string | null = null;
  #pending = new Map<string, Pending>();
  readonly #writes: Write[] = [];

  constructor(
    private readonly workspace: LoadedWorkspace,
    private readonly transaction: Transaction,
    private readonly info: RunInfo,
  ) {}

  add(writes: readonly Write[]): void {
    for (const write of writes) {
      this.#writes.push(write);
      const key = recordKey(write);
      const known = this.#pending.get(key) ?? {
        type: write.type,
        id: write.id,
        kind: write.kind,
        isEdited: false,
        values: {},
      };
      for (const change of write.changes) {
        known.values[snake(change.field)] = toColumn(
          fieldIn(this.workspace.model, change.type, change.field).type,
          change.after,
        );
      }
      known.isEdited ||= write.wave === 0;
      this.#pending.set(key, known);
    }
  }

  /** Writes pending records, one statement for each type and set of fields, and their problems. */
  async flush(): Promise<void> {
    if (this.#pending.size === 0) return;
    this.#run ??= await insertRun(this.transaction, this.workspace.schema, this.info);
    const pending = [...this.#pending.values()];
    this.#pending = new Map();
    // Parents before children isn't needed: foreign keys are checked at the end of the transaction.
    for (const group of grouped(pending)) await this.writeGroup(group);
    await this.writeProblems();
  }

  private async writeGroup(group: readonly Pending[]): Promise<void> {
    const [{ type, kind, values, isEdited }] = group as [Pending];
    const fields = this.workspace.model.type(type)!.fields.filter((field) => snake(field.key) in values);
    const columns = fields.map((field) => columnOf(field.key));
    const record = [
      'id uuid',
      ...fields.map((field) => `${columnOf(field.key)} ${fieldColumnType(this.workspace, type, field.key)}`),
    ].join(', ');
    const source = `jsonb_to_recordset($1::jsonb) AS x(${record})`;
    const table = tableOf(this.workspace.schema, type);
    const rows = JSON.stringify(group.map((entry) => ({ id: entry.id, ...entry.values })));
    if (kind === 'create') {
      const into = ['id', ...columns, 'created_run', 'changed_run'].join(', ');
      const text = `INSERT INTO ${table} (${into}) SELECT ${['x.id', ...columns.map((column) => `x.${column}`)].join(', ')}, $2, $2 FROM ${source}`;
      await run(this.transaction, text, [rows, this.#run]);
      return;
    }
    const sets = [...columns.map((column) => `${column} = x.${column}`), 'changed_run = $2'];
    if (isEdited) sets.push('version = t.version + 1');
    if (kind === 'delete') sets.push('deleted_run = $2');
    await run(this.transaction, `UPDATE ${table} t SET ${sets.join(', ')} FROM ${source} WHERE t.id = x.id`, [
      rows,
      this.#run,
    ]);
  }

  #problemsWritten = 0;

  /** Raises and clears problems of kept values; later waves may read them. */
  private async writeProblems(): Promise<void> {
    const changes = this.#writes.slice(this.#problemsWritten).flatMap((write) => write.changes);
    this.#problemsWritten = this.#writes.length;
    const touched = changes.filter((change) => change.error !== null || change.errorBefore !== null);
    if (touched.length === 0) return;
    const table = `${quote(this.workspace.schema)}.problem`;
    await run(
      this.transaction,
      `DELETE FROM ${table} p USING jsonb_to_recordset($1::jsonb) AS x(id uuid, field text) WHERE p.record = x.id AND p.field = x.field`,
      [JSON.stringify(touched.map(({ id, field }) => ({ id, field })))],
    );
    const raised = touched
      .filter((change) => change.error !== null)
      .map(({ type, id, field, rule, error }) => ({ type, id, field, rule, code: error }));
    await run(
      this.transaction,
      `INSERT INTO ${table} (type, record, field, rule, code, run)
        SELECT x.type, x.id, x.field, x.rule, x.code, $2 FROM jsonb_to_recordset($1::jsonb) AS x(type text, id uuid, field text, rule uuid, code text)`,
      [JSON.stringify(raised), this.#run],
    );
  }

  async finish(): Promise<string | null> {
    await this.flush();
    if (this.#run === null) return null;
    const entries = ledgerEntries(this.workspace, this.#writes);
    if (entries.length > 0) {
      await run(
        this.transaction,
        `INSERT INTO ${quote(this.workspace.schema)}.ledger (run, type, record, event, changes, sources)
          SELECT $2, x.type, x.record, x.event, x.changes, x.sources
          FROM jsonb_to_recordset($1::jsonb) AS x(type text, record uuid, event text, changes jsonb, sources jsonb)`,
        [JSON.stringify(entries), this.#run],
      );
    }
    return this.#run;
  }
}

/** Records that are written alike: of one type, done the same to, with the same fields. */
function grouped(pending: readonly Pending[]): Pending[][] {
  const groups = new Map<string, Pending[]>();
  for (const entry of pending) {
    const key = [entry.type, entry.kind, entry.isEdited, ...Object.keys(entry.values).sort()].join(' ');
    groups.set(key, [...(groups.get(key) ?? []), entry]);
  }
  return [...groups.values()];
}

/** Where a change in the ledger came from, when a rule wrote it. */
export interface LedgerSource {
  readonly wave: number;
  readonly ruleVersion: string;
  readonly causes: readonly CellRef[];
}

interface LedgerEntry {
  readonly type: string;
  readonly record: string;
  readonly event: 'changed' | 'deleted';
  readonly changes: Record<string, unknown>;
  readonly sources: Record<string, LedgerSource>;
}

/**
 * One entry for each record and run. Records that the run makes aren't copied: they carry the run that made them, and their
 * first values are read backwards from what stands there now.
 */
function ledgerEntries({ model, plan }: LoadedWorkspace, writes: readonly Write[]): LedgerEntry[] {
  const entries = new Map<string, LedgerEntry>();
  const created = new Set(writes.filter((write) => write.kind === 'create').map(recordKey));
  const wire = (change: Change, value: Change['after']) =>
    toWire(fieldIn(model, change.type, change.field).type, value);
  for (const write of writes) {
    const key = recordKey(write);
    if (created.has(key)) continue;
    const event = write.kind === 'delete' ? 'deleted' : 'changed';
    const entry = entries.get(key) ?? { type: write.type, record: write.id, event, changes: {}, sources: {} };
    for (const change of write.changes) {
      entry.changes[change.field] = [wire(change, change.before), wire(change, change.after)];
      const rule = change.rule === null ? undefined : plan.rules.find(({ id }) => id === change.rule);
      if (rule)
        entry.sources[change.field] = { wave: change.wave, ruleVersion: rule.version, causes: change.causes };
    }
    entries.set(key, entry);
  }
  return [...entries.values()];
}

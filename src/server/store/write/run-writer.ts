import { certain, valueAt } from '@/core/values';
import {
  type Change,
  type KeptAccumulator,
  type KeptExtremum,
  type KeptRow,
  type Later,
  type Proposed,
  recordKey,
  type RecordRef,
  type Row,
  type Withdrawn,
  type Write,
} from '@/core/engine';
import { fieldIn } from '@/core/model';
import { isKeptByDifference } from '@/core/rules';
import { type Transaction } from 'sequelize';
import { laterSql } from './deferred-targets';
import { insertRun, insertRunSql, type RunInfo } from './run-row';
import { madeSql, proposalsSql } from './created-records';
import {
  Binds,
  columnOf,
  keptColumns,
  reactingRow,
  quote,
  runHot,
  snake,
  tableOf,
} from '@/server/store/sql/sql';
import { fieldColumnType, toColumn } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { OWN_STAMP } from '@/server/store/sql/row-stamp';
import { MERGE_ENTRY } from '@/server/store/sql/ledger-merge';
import { entriesTogether, entryValues, ledgerEntries } from './ledger-entries';
import { boundAlike, boundAlone, boundTogether, isAlike } from './bound-values';
import { type Pending } from './bound-values';

/** The beginning of a statement, with a query in it that answers a row where the rest of it is to be written. */
export interface Gate {
  readonly parts: readonly string[];
  readonly seen: string;
  readonly binds: Binds;
}

/**
 * Writes what a run changes. Records, problems and the ledger go in one statement; each kind of row is bound as one JSON
 * document, decimals as digits, so that the text of the statement depends on what is written, not on how many.
 */
export class RunWriter {
  #run: string | null;
  #stamp: string | null = null;
  #pending = new Map<string, Pending>();
  #written = 0;
  readonly #writes: Write[] = [];
  #later: readonly Later[] = [];
  #proposals: readonly Proposed[] = [];
  #withdrawn: readonly Withdrawn[] = [];
  #isMerged: boolean;

  constructor(
    private readonly workspace: LoadedWorkspace,
    /** `null`: it writes by `finishWhere` only. */
    private readonly transaction: Transaction | null,
    private readonly info: RunInfo,
    /** A record as it stands with all that was added. */
    private readonly rowOf: (ref: RecordRef) => Row,
    /** Goes on with a run that is written already; records that it made (by `recordKey`) aren't copied into the ledger. */
    private readonly going: { readonly run: string; readonly made: ReadonlySet<string> } | null = null,
  ) {
    this.#run = going?.run ?? null;
    this.#isMerged = going !== null;
  }

  add(writes: readonly Write[]): void {
    for (const write of writes) {
      this.#writes.push(write);
      const pending = this.pendingOf(write);
      for (const change of write.changes) this.putValue(pending, change);
      for (const kept of write.accumulators ?? []) this.putKept(pending, kept);
      for (const kept of write.rows ?? []) putRow(pending, kept);
      for (const kept of write.leaders ?? []) putLeader(pending, kept);
      if (write.changes.some(({ error, errorBefore }) => error !== null || errorBefore !== null))
        this.putProblems(pending);
      pending.isEdited ||= write.wave === 0;
      pending.isChanged ||= write.changes.length + write.events.length > 0;
    }
  }

  /** What the run leaves for rules of slower paces; written with its last statement. */
  leave(later: readonly Later[]): void {
    this.#later = later;
  }

  /** What the run proposes, and what is open no more; written with its last statement. */
  propose(proposals: readonly Proposed[], withdrawn: readonly Withdrawn[]): void {
    this.#proposals = proposals;
    this.#withdrawn = withdrawn;
  }

  /** Records of a type that have changes which the database hasn't seen. */
  pendingIds(type: string): string[] {
    return [...this.#pending.values()].filter((entry) => entry.type === type).map(({ id }) => id);
  }

  private pendingOf(write: Write): Pending {
    const key = recordKey(write);
    const known = this.#pending.get(key);
    const { type, id, kind, deletedWith } = write;
    const goneWith = deletedWith && deletedWith.id !== id ? deletedWith.id : null;
    if (known) {
      // What was edited may go into the bin, or come out of it, by a rule in the same run.
      if (kind === 'delete' || kind === 'restore') Object.assign(known, { kind, deletedWith: goneWith });
      return known;
    }
    // Written out, so that all keep one shape.
    const made: Pending = {
      type,
      id,
      kind,
      isEdited: false,
      isChanged: false,
      deletedWith: goneWith,
      columns: new Map(),
      values: {},
    };
    this.#pending.set(key, made);
    return made;
  }

  private putValue({ columns, values }: Pending, { type, field, after }: Change): void {
    columns.set(columnOf(field), fieldColumnType(this.workspace, type, field));
    values[snake(field)] = toColumn(fieldIn(this.workspace.model, type, field).type, after);
  }

  /** All problems of the record as it stands after the writes. */
  private putProblems({ type, id, columns, values }: Pending): void {
    const { errors } = this.rowOf({ type, id });
    columns.set('problems', 'jsonb');
    values.problems = Object.keys(errors).length > 0 ? errors : null;
  }

  /** Only rules that can be kept by difference have columns for it. */
  private putKept({ columns, values }: Pending, { rule: id, field, accumulator }: KeptAccumulator): void {
    const rule = this.workspace.plan.rules.find((one) => one.id === id && one.writes.field === field);
    if (!rule || !isKeptByDifference(rule)) return;
    const name = snake(field);
    for (const [column, type, value] of [
      [`${name}__n`, 'integer', accumulator.count],
      [`${name}__s`, 'numeric', accumulator.sum.toFixed()],
      [`${name}__e`, 'integer', accumulator.errors],
    ] as const) {
      columns.set(quote(column), type);
      values[column] = value;
    }
  }

  /** The run's number, once it is written. */
  get run(): string | null {
    return this.#run;
  }

  /** What is remembered of the version of what was written (see `stampOf`); `null` where nothing was. */
  get stamp(): string | null {
    return this.#stamp;
  }

  /** Writes pending records and their problems, so that statements after it see them. */
  flush(): Promise<void> {
    return this.write(false);
  }

  /** Writes what is pending, and the run: what is written as a set names it. Its ledger may then have entries of the same records. */
  async runForMany(): Promise<string> {
    this.#isMerged = true;
    await this.write(false);
    this.#run ??= await insertRun(certain(this.transaction), this.workspace.schema, this.info);
    return this.#run;
  }

  /** Writes what is left, and the ledger. Answers the run's number, or null when nothing was written. */
  async finish(): Promise<string | null> {
    await this.write(true);
    return this.#run;
  }

  private async write(isLast: boolean): Promise<void> {
    const pending = this.takePending();
    const isLeft = this.#later.length + this.#proposals.length > 0;
    if (pending.length === 0 && !(isLast && (this.#run !== null || isLeft))) return;
    const binds = new Binds();
    await this.send([this.runSql(binds), ...this.partsOf(pending, binds, isLast)], binds);
  }

  /**
   * Writes all that there is by one statement, which is a transaction by itself: nothing at all where `seen`, a query of its beginning, answers no
   * row. Answers whether it was written; there must be something to write.
   */
  finishWhere({ parts, binds, seen }: Gate, transaction: Transaction): Promise<boolean> {
    const run = `run AS (${insertRunSql(this.workspace.schema, this.info, binds, `FROM ${seen}`)})`;
    return this.send([...parts, run, ...this.partsOf(this.takePending(), binds, true)], binds, transaction);
  }

  /** Whether there is something to write. */
  get isPending(): boolean {
    return [...this.#pending.values()].some(isToWrite);
  }

  private takePending(): Pending[] {
    const pending = [...this.#pending.values()].filter(isToWrite);
    this.#pending = new Map();
    return pending;
  }

  private partsOf(pending: readonly Pending[], binds: Binds, isLast: boolean): string[] {
    return [
      ...grouped(pending).map((group, at) => `w${at} AS (${this.groupSql(group, binds)})`),
      ...this.problemsSql(binds),
      ...(isLast ? this.lastSql(binds) : []),
    ];
  }

  private async send(
    parts: readonly string[],
    binds: Binds,
    transaction = certain(this.transaction),
  ): Promise<boolean> {
    const text = `WITH ${parts.join(',\n')} SELECT id::text, ${OWN_STAMP} AS stamp FROM run`;
    const [row] = await runHot<{ id: string; stamp: string }>(
      transaction,
      this.workspace.epoch,
      text,
      binds.values,
    );
    this.#run = row?.id ?? this.#run;
    this.#stamp = row?.stamp ?? null;
    return row !== undefined;
  }

  private lastSql(binds: Binds): string[] {
    const proposed = { proposals: this.#proposals, withdrawn: this.#withdrawn };
    return [
      ...this.ledgerSql(binds),
      ...madeSql(this.workspace, this.#writes, binds),
      ...proposalsSql(this.workspace, proposed, binds),
      ...laterSql(this.workspace.schema, this.#later, binds),
    ];
  }

  private runSql(binds: Binds): string {
    return this.#run === null
      ? `run AS (${insertRunSql(this.workspace.schema, this.info, binds)})`
      : `run AS (SELECT ${binds.add(this.#run, 'bigint')} AS id)`;
  }

  /**
   * A record alone is bound value by value: PostgreSQL plans such a statement in a third of the time, and never by reading
   * the whole table. Of several, the ids are bound once more, for the same reason.
   */
  private groupSql(group: readonly Pending[], binds: Binds): string {
    const [first] = group as [Pending];
    const { type, kind, columns, isEdited, isChanged } = first;
    const names = [...columns.keys()].sort();
    const table = tableOf(this.workspace.schema, type);
    const bound = group.length === 1 ? boundAlone : isAlike(group) ? boundAlike : boundTogether;
    const source = bound(group, binds);
    if (kind === 'create') {
      const into = ['id', ...names, 'created_run', 'changed_run'].join(', ');
      const from = [source.id, ...names.map(source.value), 'run.id', 'run.id'].join(', ');
      return `INSERT INTO ${table} (${into}) SELECT ${from} FROM ${[...source.from, 'run'].join(', ')}`;
    }
    const sets = names.map((name) => `${name} = ${source.value(name)}`);
    if (isChanged) sets.push('changed_run = run.id');
    if (isEdited) sets.push('version = t.version + 1');
    if (kind === 'delete')
      sets.push('deleted_run = run.id', `deleted_with = ${source.value('deleted_with')}`);
    if (kind === 'restore') sets.push('deleted_run = NULL', 'deleted_with = NULL');
    return `UPDATE ${table} t SET ${sets.join(', ')} FROM ${[...source.from, 'run'].join(', ')} WHERE t.id = ${source.id} ${source.also}`;
  }

  /** Raises and clears problems of kept values; later waves may read them. */
  private problemsSql(binds: Binds): string[] {
    const changes = this.#writes.slice(this.#written).flatMap((write) => write.changes);
    this.#written = this.#writes.length;
    const cleared = changes.filter(({ error, errorBefore }) => error === null && errorBefore !== null);
    const raised = changes.filter(({ error }) => error !== null);
    const table = `${quote(this.workspace.schema)}._problem`;
    const document = (of: readonly unknown[]) => binds.add(JSON.stringify(of), 'jsonb');
    return [
      ...(cleared.length === 0
        ? []
        : [
            `cleared AS (DELETE FROM ${table} p USING jsonb_to_recordset(${document(cleared.map(({ id, field }) => ({ id, field })))}) AS x(id uuid, field text), run
              WHERE p.record = x.id AND p.field = x.field)`,
          ]),
      ...(raised.length === 0
        ? []
        : [
            `raised AS (INSERT INTO ${table} (type, record, field, rule, code, run)
              SELECT x.type, x.id, x.field, x.rule, x.code, run.id
              FROM jsonb_to_recordset(${document(raised.map(({ type, id, field, rule, error }) => ({ type, id, field, rule, code: error })))}) AS x(type text, id uuid, field text, rule uuid, code text), run
              ON CONFLICT (record, field) DO UPDATE SET rule = excluded.rule, code = excluded.code, run = excluded.run)`,
          ]),
    ];
  }

  private ledgerSql(binds: Binds): string[] {
    const made = this.going?.made;
    const entries = ledgerEntries(this.workspace, this.#writes).filter(
      ({ type, record }) => !made?.has(recordKey({ type, id: record })),
    );
    if (entries.length === 0) return [];
    const into = `INSERT INTO ${quote(this.workspace.schema)}._ledger AS l (run, type, record, event, changes, sources)`;
    const columns = 'type, record, event, changes, sources';
    const source =
      entries.length <= FEW
        ? `(VALUES ${entries.map((entry) => entryValues(entry, binds)).join(', ')}) AS x(${columns})`
        : entriesTogether(entries, binds);
    return [
      `logged AS (${into} SELECT run.id, x.type, x.record, x.event, x.changes, x.sources FROM ${source}, run${this.#isMerged ? MERGE_ENTRY : ''})`,
    ];
  }
}

const isToWrite = ({ isChanged, columns }: Pending): boolean => isChanged || columns.size > 0;

function putRow({ columns, values }: Pending, { rule, field, row }: KeptRow): void {
  const column = reactingRow(rule, field);
  columns.set(quote(column), 'integer');
  values[column] = row;
}

function putLeader({ columns, values }: Pending, { field, leader }: KeptExtremum): void {
  columns.set(keptColumns(field).leader, 'uuid');
  values[`${snake(field)}__l`] = leader;
}

/** Up to so many ledger entries are bound one by one; more come as one document. */
const FEW = 4;

/** Records that are written alike: of one type, done the same to, with the same columns. */
function grouped(pending: readonly Pending[]): Pending[][] {
  const groups = new Map<string, Pending[]>();
  for (const entry of pending) {
    const { type, kind, isEdited, isChanged, columns } = entry;
    const key = [type, kind, isEdited, isChanged, ...[...columns.keys()].sort()].join(' ');
    const group = groups.get(key);
    if (group) group.push(entry);
    else groups.set(key, [entry]);
  }
  return [...groups.keys()].sort().map((key) => valueAt(groups, key));
}

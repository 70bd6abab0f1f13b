import {
  type Answer,
  type Answers,
  cellKey,
  type Claim,
  type Edit,
  isHolderFor,
  lockOrder,
  type Need,
  reactionFails,
  recordKey,
  type RecordRef,
  type Row,
  rowSet,
  sameOutcome,
  titleOf,
  type Work,
  type WorkedOut,
  writtenRow,
} from '@/core/engine';
import { fieldIn } from '@/core/model';
import {
  type Accumulator,
  type CompiledRule,
  isKeptByDifference,
  isKeptByExtremum,
  isReacting,
} from '@/core/rules';
import {
  compareText,
  Decimal,
  type ErrorCode,
  type Outcome,
  unreachable,
  valueAt,
  firstIn,
} from '@/core/values';
import { type Transaction } from 'sequelize';
import { cachedRow, cacheRows } from '@/server/store/session/row-cache';
import { keepsField } from '@/server/store/write/keeps-field';
import { Refusal } from '@/server/refusal';
import { fillRules } from '@/server/store/sets/fill';
import { refuseEntered } from '@/server/store/sets/refuse-entered';
import { CascadeFailed, bulkCascadeSet } from '@/server/store/sets/bulk-cascade-sql';
import { leaveMany, takeLater } from '@/server/store/write/deferred-targets';
import { readMade } from '@/server/store/write/created-records';
import { readCandidates } from './candidates';
import type { EnteredQuery } from '@/server/store/rule-sql/result-sql';
import { differsSql, keptDiffersSql, rollUpSql } from '@/server/store/rule-sql/roll-up-sql';
import { takeSerials } from '@/server/store/write/serials';
import {
  allOf,
  Binds,
  columnOf,
  pipelined,
  once,
  readColumn,
  run,
  runHot,
  tableOf,
} from '@/server/store/sql/sql';
import { readDeletionMembers } from '@/server/store/write/deletion-members';
import {
  fromColumn,
  keptFrom,
  keptReads,
  extremumReads,
  readHolders,
  readRows,
  rowColumns,
  rowFrom,
} from '@/server/store/sql/columns';
import { NeedsExclusiveLock } from '@/server/store/session/transactions';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { RunWriter, type RunInfo } from '@/server/store/write/run-writer';

/** A lock that should have been taken before one that is held: the run starts again with what it learnt. */
export class LockOrderMissed extends Error {
  constructor(readonly claims: readonly Claim[]) {
    super('A run needs a lock out of order');
  }
}

/** Most records beneath which it is remembered what lies there. */
const MOST_ALIKE = 50;

interface AskedRelated {
  readonly need: Extract<Need, { kind: 'related' }>;
  readonly found: Promise<Record<string, unknown>[]>;
}

/**
 * Answers the engine's needs from PostgreSQL, within one transaction. Rows that are locked or written are answered from
 * memory. Writes are kept pending and flushed before a need that SQL must work out over them, otherwise all at once at the
 * end; totals are worked out in a later statement than the one that locks their parents.
 */
export class PostgresDriver {
  readonly #held = new Map<string, Claim>();
  readonly #current = new Map<string, Row>();
  readonly #kept = new Map<string, Accumulator>();
  /** Which child leads, by target and field, as far as that is known. */
  readonly #leaders = new Map<string, string>();
  readonly #order: ReadonlyMap<string, number>;
  /** Rows that were read ahead, and guesses at rows; both good until the first lock. */
  #ahead: Promise<readonly Row[]>[] = [];
  #guesses = new Map<string, Row>();
  readonly #writer: RunWriter;
  #last: Claim | null = null;
  #hasReachedMany = false;
  /** What lies beneath few records, as asked since the last lock and flush. */
  #related = new Map<string, AskedRelated>();

  constructor(
    private readonly workspace: LoadedWorkspace,
    private readonly transaction: Transaction,
    info: RunInfo,
    /** With the whole workspace locked the order of row locks no longer matters. */
    private readonly isAlone = false,
    /** Until the transaction has begun and its epoch is the right one; nothing is decided before. */
    private readonly begun: Promise<void> = Promise.resolve(),
    /** Goes on with a run that is written already; see `RunWriter`. */
    going: { readonly run: string; readonly made: ReadonlySet<string> } | null = null,
  ) {
    this.#order = lockOrder(workspace.model);
    this.#writer = new RunWriter(
      workspace,
      transaction,
      info,
      (ref) => valueAt(this.#current, recordKey(ref)),
      going,
    );
  }

  /** A record that was read already, while nobody else writes. */
  know(row: Row): void {
    this.#current.set(recordKey(row), row);
  }

  /** Every claim so far, to start again with. */
  claims(): readonly Claim[] {
    return [...this.#held.values()];
  }

  /** Whether nothing but guesses stands behind what was answered so far. */
  get isGuessing(): boolean {
    return this.#guesses.size > 0;
  }

  /** Guesses at the records of edits where they were seen lately and are locked later on, and sends for the others, without waiting. */
  lookAhead(edits: readonly Edit[]): void {
    const unseen = edits.filter((edit) => {
      if (this.isAlone) return true;
      const row =
        edit.kind === 'edit' || edit.kind === 'delete' ? cachedRow(this.workspace, edit) : undefined;
      const isLikely = row && !row.deleted && (!('version' in edit) || edit.version === row.version);
      if (isLikely) this.#guesses.set(recordKey(row), row);
      return !isLikely;
    });
    for (const type of new Set(unseen.map((edit) => edit.type))) {
      const ids = unseen.filter((edit) => edit.type === type).map(({ id }) => id);
      const read = readRows(this.transaction, this.workspace, type, ids, this.workspace.epoch);
      read.catch(() => undefined); // told where it is waited for
      this.#ahead.push(read);
    }
  }

  async answer(need: Need): Promise<Answer> {
    switch (need.kind) {
      case 'lock':
        return this.lock(need.claims);
      case 'records':
        return this.records(need.set.type, need.set.ids);
      case 'above':
        return this.above(need);
      case 'related':
        return this.related(need);
      case 'everything':
        return this.everything(need.type);
      case 'deletionMembers':
        return readDeletionMembers(this.transaction, this.workspace, need.roots);
      case 'accumulators':
        return this.accumulators(need);
      case 'leaders':
        return this.leaders(need);
      case 'holders':
        return this.holders(need);
      case 'serials':
        return this.serials(need);
      case 'workOut':
        return this.workOut(need.work);
      case 'made':
        return this.made(need);
      case 'candidates':
        return this.candidates(need);
      case 'propose':
        this.#writer.propose(need.proposals, need.withdrawn);
        return null;
      case 'alone':
        if (!this.isAlone) throw new NeedsExclusiveLock(need.rule, need.sources);
        return null;
      case 'bulkCascade':
        return this.bulkCascade(need.parts);
      case 'fillMany':
        return this.fillMany(need);
      case 'takeLater':
        await takeLater(this.transaction, this.workspace.schema, [need.rule], need.ids);
        return null;
      case 'defer':
        this.#writer.leave(need.later);
        return null;
      case 'write':
        return this.write(need.writes);
      default:
        return unreachable(need);
    }
  }

  /** Writes what is pending, the run and its ledger. Answers the run's number, or null when nothing was written. */
  finish(): Promise<string | null> {
    return this.#writer.finish();
  }

  private async lock(claims: readonly Claim[]): Promise<null> {
    const wanted = claims.filter((claim) => this.#held.get(recordKey(claim))?.strength !== 'write');
    const isLate = wanted.some(
      (claim) =>
        this.#held.has(recordKey(claim)) || (this.#last !== null && this.compare(claim, this.#last) < 0),
    );
    if (isLate && !this.isAlone) throw new LockOrderMissed([...claims, ...this.claims()]);
    this.#ahead = [];
    this.#guesses = new Map();
    const types = [...new Set(wanted.map((claim) => claim.type))];
    // One statement for each type, in order, sent in one go: the server takes them one after the other.
    const asked = [...this.#related.values()];
    this.#related = new Map();
    const sent = pipelined(this.transaction, () => {
      const locked = types.map((type) =>
        this.lockType(
          type,
          wanted.filter((claim) => claim.type === type),
        ),
      );
      // What was asked without the locks is asked again behind them: the engine will.
      for (const { need } of asked) void this.findRelated(need);
      return locked;
    });
    await allOf([this.begun, ...sent]);
    this.#last = wanted.at(-1) ?? this.#last;
    return null;
  }

  private async lockType(type: string, claims: readonly Claim[]): Promise<void> {
    const strength = claims.some((claim) => claim.strength === 'write') ? 'FOR NO KEY UPDATE' : 'FOR SHARE';
    const rules = this.keptOn(type);
    const led = this.ledOn(type);
    const text = once(
      this.workspace,
      `lock ${type} ${strength}`,
      () => `SELECT ${rowColumns(this.workspace, type, 't')}${keptReads(rules, 't')}${extremumReads(led, 't')} FROM ${tableOf(this.workspace.schema, type)} t
        WHERE t.id = ANY($1::uuid[]) ORDER BY t.id ${strength} OF t`,
    );
    for (const claim of claims) this.#held.set(recordKey(claim), claim);
    for (const found of await this.hot(text, [claims.map((claim) => claim.id)])) {
      const row = rowFrom(this.workspace, type, found);
      this.#current.set(recordKey(row), row);
      rules.forEach((rule, at) => {
        const kept = keptFrom(found, at);
        if (kept) this.#kept.set(`${rule.id} ${row.id}`, kept);
      });
      led.forEach(({ writes }, at) => {
        const leader = (found.leaders as readonly unknown[])[at];
        if (typeof leader === 'string') this.#leaders.set(cellKey({ ...writes, id: row.id }), leader);
      });
    }
  }

  private compare(a: Claim, b: Claim): number {
    return valueAt(this.#order, a.type) - valueAt(this.#order, b.type) || compareText(a.id, b.id);
  }

  /** Live rules on a type for whose targets something is kept beside the value. */
  private keptOn(type: string): CompiledRule[] {
    return this.workspace.plan.rules.filter((rule) => rule.writes.type === type && isKeptByDifference(rule));
  }

  /** Live rules on a type that are kept by their leader. */
  private ledOn(type: string): CompiledRule[] {
    return this.workspace.plan.rules.filter((rule) => rule.writes.type === type && isKeptByExtremum(rule));
  }

  private hot(text: string, values: readonly unknown[]): Promise<Record<string, unknown>[]> {
    return runHot(this.transaction, this.workspace.epoch, text, values);
  }

  /** Rows that are locked or pending are known; others are read as they stand now. */
  private async records(type: string, ids: readonly string[]): Promise<Answers['records']> {
    const ahead = new Map((await allOf(this.#ahead)).flat().map((row) => [recordKey(row), row]));
    const find = (id: string) => {
      const key = recordKey({ type, id });
      return this.#current.get(key) ?? this.#guesses.get(key) ?? ahead.get(key);
    };
    const known = ids.flatMap((id) => find(id) ?? []);
    const unknown = ids.filter((id) => !find(id));
    const read = await readRows(this.transaction, this.workspace, type, unknown, this.workspace.epoch);
    const rows = [...known, ...read];
    // They stand as if they were locked.
    if (this.isAlone) for (const row of rows) this.#current.set(recordKey(row), row);
    return { rows: new Map(rows.map((row) => [row.id, row])), known: true };
  }

  private async candidates({
    rule,
    targets,
  }: Extract<Need, { kind: 'candidates' }>): Promise<Answers['candidates']> {
    await this.flush();
    return readCandidates(this.transaction, this.workspace, rule, targets.ids);
  }

  /** As the database has it: a rule has its turn once in a run, before what it makes. */
  private async made(need: Extract<Need, { kind: 'made' }>): Promise<Answers['made']> {
    await this.begun;
    return readMade(this.transaction, this.workspace, need);
  }

  private async serials({ type, field, count }: Extract<Need, { kind: 'serials' }>): Promise<number> {
    await this.begun;
    return takeSerials(this.transaction, this.workspace.schema, { type, field, count });
  }

  /** All that lies above over a self link: what is known by walking, the rest level by level in one statement. */
  private async above({ set, link }: Extract<Need, { kind: 'above' }>): Promise<Answers['above']> {
    const known = new Map<string, Row>();
    const unknown = new Set<string>();
    for (const start of set.ids) {
      let id: unknown = start;
      while (typeof id === 'string' && !known.has(id)) {
        const row = this.#current.get(recordKey({ type: set.type, id }));
        if (row) known.set(id, row);
        else unknown.add(id);
        id = row?.values[link.link];
      }
    }
    const column = columnOf(link.link);
    const table = tableOf(this.workspace.schema, set.type);
    const text = `WITH RECURSIVE up AS (
        SELECT id, ${column} AS next FROM ${table} WHERE id = ANY($1::uuid[])
        UNION SELECT t.id, t.${column} FROM up JOIN ${table} t ON t.id = up.next
      ) SELECT ${rowColumns(this.workspace, set.type, 't')} FROM ${table} t WHERE t.id IN (SELECT id FROM up)`;
    const found = unknown.size === 0 ? [] : await this.hot(text, [[...unknown]]);
    const read = found.map((row) => rowFrom(this.workspace, set.type, row));
    return { rows: new Map([...read, ...known.values()].map((row) => [row.id, row])), known: true };
  }

  private async related(need: AskedRelated['need']): Promise<Answers['related']> {
    const { parents, link } = need;
    const found = parents.ids.length === 0 ? [] : await this.findRelated(need);
    if (found[0]?.id === null) return { set: rowSet(link.type, []), parentOf: new Map(), isMore: true };
    const parentOf = new Map(found.map(({ id, parent }) => [id as string, parent as string]));
    const wanted = new Set(parents.ids);
    for (const id of this.#writer.pendingIds(link.type)) {
      const row = valueAt(this.#current, recordKey({ type: link.type, id }));
      const parent = row.deleted ? null : row.values[link.link];
      if (typeof parent === 'string' && wanted.has(parent)) parentOf.set(id, parent);
      else parentOf.delete(id);
    }
    return { set: rowSet(link.type, parentOf.keys()), parentOf, isMore: false };
  }

  /** What is pending stands otherwise than the database has it. */
  private async holders(need: Extract<Need, { kind: 'holders' }>): Promise<Answers['holders']> {
    const pending = new Set(this.#writer.pendingIds(need.type));
    const stored = await readHolders(this.transaction, this.workspace, need);
    const standing = [...pending].map((id) => valueAt(this.#current, recordKey({ type: need.type, id })));
    return [...stored.filter(({ id }) => !pending.has(id)), ...standing.filter(isHolderFor(need))];
  }

  /** As the database has it, in which what is pending isn't yet. Where few are asked about the same is asked once. */
  private findRelated(need: AskedRelated['need']): AskedRelated['found'] {
    const { parents, link, most } = need;
    const key =
      parents.ids.length > MOST_ALIKE ? null : `${link.type}.${link.link} ${most} ${parents.ids.join(' ')}`;
    const known = key === null ? undefined : this.#related.get(key);
    if (known) return known.found;
    const column = columnOf(link.link);
    const of = `FROM ${tableOf(this.workspace.schema, link.type)} WHERE ${column} = ANY($1::uuid[]) AND deleted_run IS NULL`;
    const all = `SELECT id::text, ${column}::text AS parent ${of}`;
    // Of more than are wanted comes one row without an id in place of them all.
    const upTo = `WITH much AS MATERIALIZED (SELECT count(*) > $2 AS is_more FROM (SELECT ${of} LIMIT $2 + 1) x)
      ${all} AND NOT (SELECT is_more FROM much) UNION ALL SELECT NULL, NULL FROM much WHERE is_more`;
    const [text, values] = most === undefined ? [all, [parents.ids]] : [upTo, [parents.ids, most]];
    const found = this.hot(text, values);
    found.catch(() => undefined); // told where it is waited for
    if (key !== null) this.#related.set(key, { need, found });
    return found;
  }

  /** Writes what is pending: what the database was asked before is asked anew. */
  private flush(): Promise<void> {
    this.#related = new Map();
    return this.#writer.flush();
  }

  private runForMany(): Promise<string> {
    this.#related = new Map();
    return this.#writer.runForMany();
  }

  private async everything(type: string): Promise<Answers['everything']> {
    await this.flush();
    const found = await run<{ id: string }>(
      this.transaction,
      `SELECT id::text FROM ${tableOf(this.workspace.schema, type)} WHERE deleted_run IS NULL`,
    );
    return rowSet(
      type,
      found.map(({ id }) => id),
    );
  }

  private accumulators({ rule, targets }: Extract<Need, { kind: 'accumulators' }>): Answers['accumulators'] {
    return new Map(
      targets.ids.flatMap((id) => {
        const kept = this.#kept.get(`${rule.id} ${id}`);
        return kept ? [[id, kept] as const] : [];
      }),
    );
  }

  private leaders({ rule, targets }: Extract<Need, { kind: 'leaders' }>): Answers['leaders'] {
    return new Map(
      targets.ids.flatMap((id) => {
        const leader = this.#leaders.get(cellKey({ ...rule.writes, id }));
        return leader ? [[id, leader] as const] : [];
      }),
    );
  }

  /** Rules over the same link in one statement; each is asked for its own targets only. */
  private async workOut(work: readonly Work[]): Promise<Answers['workOut']> {
    await this.flush();
    const rules = work.map(({ rule }) => rule);
    const binds = new Binds();
    const isKept = keepsField(this.workspace.plan);
    const ids = new Set(work.flatMap(({ targets }) => targets.ids));
    const targets = binds.add([...ids], 'uuid[]');
    const sql = rollUpSql({
      schema: this.workspace,
      rules,
      binds,
      isKept,
      targets,
      withKept: true,
      withLeader: true,
    });
    const columns = rules.map((rule, at) => {
      const { type } = fieldIn(this.workspace.model, rule.writes.type, rule.writes.field);
      const differs = [differsSql(at), keptDiffersSql(rule, at, true)]
        .filter((sql) => sql !== null)
        .join(' OR ');
      return `${readColumn(type, `before${at}`)} AS before${at}, before_error${at}, ${readColumn(type, `after${at}`)} AS after${at}, after_error${at},
        (${differs}) AS differs${at}${isReacting(rule) ? `, row${at}` : ''}${isKeptByExtremum(rule) ? `, leader${at}::text AS leader${at}` : ''}${isKeptByDifference(rule) ? `, count${at}::int AS count${at}, sum${at}::text AS sum${at}, errors${at}::int AS errors${at}` : ''}`;
    });
    const text = `SELECT id::text, ${columns.join(', ')} FROM (${sql}) w`;
    const found = await this.hot(text, binds.values);
    const changed = work.flatMap(({ rule, targets: own }, at) => {
      const wanted = new Set(own.ids);
      return found
        .filter((row) => wanted.has(row.id as string) && row[`differs${at}`] === true)
        .map((row) => this.workedOut(rule, at, row));
    });
    return {
      changed: changed.filter(
        ({ before, after, accumulator, row, leader }) =>
          accumulator || row !== undefined || leader !== undefined || !sameOutcome(before, after),
      ),
      outside: [],
    };
  }

  private workedOut(rule: CompiledRule, at: number, row: Record<string, unknown>): WorkedOut {
    const { type } = fieldIn(this.workspace.model, rule.writes.type, rule.writes.field);
    const outcome = (value: unknown, error: unknown): Outcome =>
      error ? { error: error as ErrorCode } : { value: fromColumn(type, value) };
    const accumulator = isKeptByDifference(rule)
      ? {
          count: row[`count${at}`] as number,
          sum: new Decimal(row[`sum${at}`] as string),
          errors: row[`errors${at}`] as number,
        }
      : null;
    return {
      ...{ rule, id: row.id as string, accumulator },
      ...(isReacting(rule) ? { row: row[`row${at}`] as number } : {}),
      ...(isKeptByExtremum(rule) ? { leader: row[`leader${at}`] as string | null } : {}),
      before: outcome(row[`before${at}`], row[`before_error${at}`]),
      after: outcome(row[`after${at}`], row[`after_error${at}`]),
    };
  }

  /** What was written as a set is read anew, as far as it was known. */
  private async readAgain(type: string): Promise<void> {
    const known = [...this.#current.values()].filter((row) => row.type === type).map(({ id }) => id);
    if (known.length === 0) return;
    for (const row of await readRows(this.transaction, this.workspace, type, known))
      this.#current.set(recordKey(row), row);
  }

  /** Whether something went to so many that the workspace had to be locked. */
  get hasReachedMany(): boolean {
    return this.#hasReachedMany;
  }

  private async bulkCascade(parts: Extract<Need, { kind: 'bulkCascade' }>['parts']): Promise<number[]> {
    this.#hasReachedMany = true;
    const run = await this.runForMany();
    const { rule } = firstIn(parts);
    const isKept = keepsField(this.workspace.plan);
    try {
      const counts = await bulkCascadeSet({
        transaction: this.transaction,
        schema: this.workspace,
        run,
        parts,
        isKept,
      });
      await this.readAgain(rule.writes.type);
      return counts;
    } catch (error) {
      if (!(error instanceof CascadeFailed)) throw error;
      const [row] = await readRows(this.transaction, this.workspace, rule.writes.type, [error.id]);
      throw new Refusal(
        422,
        'rule.reaction',
        reactionFails(rule, row ? titleOf(this.workspace.model, row) : error.id),
      );
    }
  }

  private async fillMany({ rules, leave, entered }: Extract<Need, { kind: 'fillMany' }>): Promise<number[]> {
    const run = await this.runForMany();
    const { schema } = this.workspace;
    if (leave) {
      for (const { id } of rules) await leaveMany(this.transaction, schema, { rule: id, run });
      return rules.map(() => 0);
    }
    const enteredOn: EnteredQuery = ({ type, field }, binds) => {
      const ids = entered.filter((cell) => cell.type === type && cell.field === field).map(({ id }) => id);
      return ids.length > 0 ? `SELECT unnest(${binds.add(ids, 'uuid[]')})` : null;
    };
    const isKept = keepsField(this.workspace.plan);
    await refuseEntered(
      { transaction: this.transaction, workspace: this.workspace, entered: enteredOn },
      rules,
    );
    const counts = await fillRules({
      transaction: this.transaction,
      schema: this.workspace,
      rules,
      run,
      isKept,
      entered: enteredOn,
    });
    await this.readAgain(firstIn(rules).writes.type);
    return counts;
  }

  private write(writes: Extract<Need, { kind: 'write' }>['writes']): null {
    for (const write of writes) {
      const key = recordKey(write);
      this.#current.set(key, writtenRow(this.workspace.model, this.#current.get(key), write));
      for (const { field, leader } of write.leaders ?? []) {
        const cell = cellKey({ ...write, field });
        if (leader === null) this.#leaders.delete(cell);
        else this.#leaders.set(cell, leader);
      }
      for (const { rule, accumulator } of write.accumulators ?? [])
        this.#kept.set(`${rule} ${write.id}`, accumulator);
    }
    this.#writer.add(writes);
    return null;
  }

  /** What a process remembers of a run once it is committed. */
  remember(): void {
    cacheRows(this.workspace, this.#current.values());
  }

  /** Rows as the run leaves them; those that it doesn't know are read. */
  async rowsOf(refs: readonly RecordRef[]): Promise<Row[]> {
    const rows: Row[] = [];
    for (const type of new Set(refs.map((ref) => ref.type))) {
      const ids = refs.filter((ref) => ref.type === type).map(({ id }) => id);
      rows.push(...(await this.records(type, ids)).rows.values());
    }
    return rows;
  }
}

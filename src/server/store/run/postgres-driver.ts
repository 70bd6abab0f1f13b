import {
  type Answer,
  type Answers,
  type Claim,
  type Edit,
  isHolderFor,
  lockOrder,
  type Need,
  recordKey,
  type RecordRef,
  type Row,
  rowSet,
  sameRow,
} from '@/core/engine';
import { type CompiledRule } from '@/core/rules';
import { compareText, unreachable, valueAt, firstIn } from '@/core/values';
import { type Transaction } from 'sequelize';
import { cacheSeen } from '@/server/store/session/row-cache';
import { leaveMany, takeLater } from '@/server/store/write/deferred-targets';
import { readMade } from '@/server/store/write/created-records';
import { readCandidates } from './candidates';
import { takeSerials } from '@/server/store/write/serials';
import { allOf, pipelined, run, runHot, tableOf } from '@/server/store/sql/sql';
import { readDeletionMembers } from '@/server/store/write/deletion-members';
import { readHolders, readRows } from '@/server/store/sql/columns';
import { NeedsExclusiveLock } from '@/server/store/session/transactions';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { RelatedReads } from './related-reads';
import { cascadeMany, fillMany, type OverMany } from './over-many';
import { workOutInSql } from './work-out';
import { LockOrderMissed, lockRows } from './lock-rows';
import { readAbove } from './read-above';
import { RowsInRun } from './rows-in-run';
import { ReadAhead } from './read-ahead';
import { type RunInfo } from '@/server/store/write/run-row';
import { RunWriter } from '@/server/store/write/run-writer';

/**
 * Answers the engine's needs from PostgreSQL, within one transaction. Rows that are locked or written are answered from
 * memory. Writes are kept pending and flushed before a need that SQL must work out over them, otherwise all at once at the
 * end; totals are worked out in a later statement than the one that locks their parents.
 */
export class PostgresDriver {
  readonly #held = new Map<string, Claim>();
  readonly #rows: RowsInRun;
  readonly #order: ReadonlyMap<string, number>;
  /** Rows that were read ahead, and guesses at rows; both good until the first lock. */
  readonly #ahead: ReadAhead;
  readonly #writer: RunWriter;
  #last: Claim | null = null;
  /** The records that were answered before the first lock; `null` where something else was, or after it. */
  #seen: Map<string, Row> | null = new Map();
  #hasReachedMany = false;
  /** No statement over a set has written anything. */
  #isAllItsOwn = true;
  readonly #related: RelatedReads;

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
    this.#rows = new RowsInRun(workspace.model);
    this.#ahead = new ReadAhead(workspace, transaction);
    this.#related = new RelatedReads(workspace, (text, values) =>
      runHot(transaction, workspace.epoch, text, values),
    );
    this.#writer = new RunWriter(workspace, transaction, info, (ref) => this.#rows.row(ref), going);
  }

  /** A record that was read already, while nobody else writes. */
  know(row: Row): void {
    this.#rows.know(row);
  }

  /** Records of a type that have changes which the database hasn't seen. */
  pendingIds(type: string): string[] {
    return this.#writer.pendingIds(type);
  }

  /** Every claim so far, to start again with. */
  claims(): readonly Claim[] {
    return [...this.#held.values()];
  }

  /** Whether nothing but guesses stands behind what was answered so far. */
  get isGuessing(): boolean {
    return this.#ahead.isGuessing;
  }

  /** Guesses at the records of edits where they were seen lately and are locked later on, and sends for the others, without waiting. */
  lookAhead(edits: readonly Edit[]): void {
    this.#ahead.look(edits, !this.isAlone);
  }

  async answer(need: Need): Promise<Answer> {
    if (need.kind !== 'lock' && need.kind !== 'records') this.#seen = null;
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
        return this.#rows.beside.accumulators(need);
      case 'leaders':
        return this.#rows.beside.leaders(need);
      case 'holders':
        return this.holders(need);
      case 'serials':
        return this.serials(need);
      case 'workOut':
        await this.flush();
        return workOutInSql(this.transaction, this.workspace, need.work);
      case 'made':
        return this.made(need);
      case 'candidates':
        return this.candidates(need);
      case 'propose':
        this.#writer.propose(need.proposals, need.withdrawn);
        return null;
      case 'alone':
        if (!this.isAlone) throw new NeedsExclusiveLock(need.rule, need.sources, need.records);
        return null;
      case 'bulkCascade':
        this.#hasReachedMany = true;
        return this.overMany(firstIn(need.parts).rule, (into) => cascadeMany(into, need));
      case 'fillMany':
        return need.leave
          ? this.leaveMany(need.rules)
          : this.overMany(firstIn(need.rules), (into) => fillMany(into, need));
      case 'set':
        throw new Error('Sets of a run over many are asked of its own driver.');
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

  private async lock(claims: readonly Claim[]): Promise<Answers['lock']> {
    const seen = this.#seen;
    this.#seen = null;
    const wanted = claims.filter((claim) => this.#held.get(recordKey(claim))?.strength !== 'write');
    const isLate = wanted.some(
      (claim) =>
        this.#held.has(recordKey(claim)) || (this.#last !== null && this.compare(claim, this.#last) < 0),
    );
    if (isLate && !this.isAlone) throw new LockOrderMissed([...claims, ...this.claims()]);
    this.#ahead.forget();
    const types = [...new Set(wanted.map((claim) => claim.type))];
    // One statement for each type, in order, sent in one go: the server takes them one after the other.
    const asked = this.#related.forget();
    const sent = pipelined(this.transaction, () => {
      const locked = types.map((type) =>
        this.lockType(
          type,
          wanted.filter((claim) => claim.type === type),
        ),
      );
      // What was asked without the locks is asked again behind them: the engine will.
      for (const need of asked) void this.#related.find(need);
      return locked;
    });
    await allOf([this.begun, ...sent]);
    this.#last = wanted.at(-1) ?? this.#last;
    return { isAsRead: seen !== null && this.holds(seen) };
  }

  /** Whether records are locked now and stand as they were seen. */
  private holds(seen: ReadonlyMap<string, Row>): boolean {
    for (const [key, row] of seen) {
      const now = this.#held.has(key) ? this.#rows.rows.get(key) : undefined;
      if (!now || !sameRow(row, now)) return false;
    }
    return true;
  }

  private async lockType(type: string, claims: readonly Claim[]): Promise<void> {
    for (const claim of claims) this.#held.set(recordKey(claim), claim);
    for (const seen of await lockRows(this.transaction, this.workspace, type, claims)) this.#rows.lock(seen);
  }

  private compare(a: Claim, b: Claim): number {
    return valueAt(this.#order, a.type) - valueAt(this.#order, b.type) || compareText(a.id, b.id);
  }

  /** Rows that are locked or pending are known; others are read as they stand now. */
  private async records(type: string, ids: readonly string[]): Promise<Answers['records']> {
    const ahead = await this.#ahead.rows();
    const find = (id: string) => {
      const key = recordKey({ type, id });
      return this.#rows.rows.get(key) ?? ahead.get(key);
    };
    const known = ids.flatMap((id) => find(id) ?? []);
    const unknown = ids.filter((id) => !find(id));
    const read = await readRows(this.transaction, this.workspace, type, unknown, this.workspace.epoch);
    const rows = [...known, ...read];
    if (this.#seen) for (const row of rows) this.#seen.set(recordKey(row), row);
    // They stand as if they were locked.
    if (this.isAlone) for (const row of rows) this.#rows.know(row);
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
        const row = this.#rows.rows.get(recordKey({ type: set.type, id }));
        if (row) known.set(id, row);
        else unknown.add(id);
        id = row?.values[link.link];
      }
    }
    const read =
      unknown.size === 0
        ? []
        : await readAbove(this.transaction, this.workspace, { set, link }, [...unknown]);
    return { rows: new Map([...read, ...known.values()].map((row) => [row.id, row])), known: true };
  }

  private async related(need: Extract<Need, { kind: 'related' }>): Promise<Answers['related']> {
    const { parents, link } = need;
    const found = parents.ids.length === 0 ? [] : await this.#related.find(need);
    if (found[0]?.id === null) return { set: rowSet(link.type, []), parentOf: new Map(), isMore: true };
    const parentOf = new Map(found.map(({ id, parent }) => [id as string, parent as string]));
    const wanted = new Set(parents.ids);
    for (const id of this.#writer.pendingIds(link.type)) {
      const row = this.#rows.row({ type: link.type, id });
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
    const standing = [...pending].map((id) => this.#rows.row({ type: need.type, id }));
    return [...stored.filter(({ id }) => !pending.has(id)), ...standing.filter(isHolderFor(need))];
  }

  /** Writes what is pending: what the database was asked before is asked anew. */
  private flush(): Promise<void> {
    this.#related.forget();
    return this.#writer.flush();
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

  /** Whether something went to so many that the workspace had to be locked. */
  get hasReachedMany(): boolean {
    return this.#hasReachedMany;
  }

  /** What a statement over a whole set writes is read anew, as far as it was known. */
  private async overMany<T>(
    { writes }: Pick<CompiledRule, 'writes'>,
    work: (into: OverMany) => Promise<T>,
  ): Promise<T> {
    const { transaction, workspace } = this;
    this.#related.forget();
    this.#isAllItsOwn = false;
    const counts = await work({ transaction, workspace, run: await this.#writer.runForMany() });
    const known = [...this.#rows.rows.values()]
      .filter(({ type }) => type === writes.type)
      .map(({ id }) => id);
    if (known.length > 0)
      for (const row of await readRows(transaction, workspace, writes.type, known)) this.know(row);
    return counts;
  }

  /** All targets of rules of a slower pace are left for it. */
  private async leaveMany(rules: readonly CompiledRule[]): Promise<number[]> {
    this.#related.forget();
    const run = await this.#writer.runForMany();
    for (const { id } of rules) await leaveMany(this.transaction, this.workspace.schema, { rule: id, run });
    return rules.map(() => 0);
  }

  private write(writes: Extract<Need, { kind: 'write' }>['writes']): null {
    this.#rows.write(writes);
    this.#writer.add(writes);
    return null;
  }

  /** What a process remembers of a run once it is committed; `isAllItsOwn`: nothing was written in its transaction but what it wrote itself. */
  remember(isAllItsOwn: boolean): void {
    cacheSeen(this.workspace, this.#rows.seen(this.#writer.stamp, isAllItsOwn && this.#isAllItsOwn));
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

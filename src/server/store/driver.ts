import {
  type Answer,
  type Answers,
  type Claim,
  lockOrder,
  type Need,
  recordKey,
  type Row,
  rowSet,
  sameOutcome,
  type Work,
  type WorkedOut,
  writtenRow,
} from '@/core/engine';
import { fieldIn } from '@/core/model';
import { compareText, type ErrorCode, type Outcome, unreachable } from '@/core/values';
import { type Transaction } from 'sequelize';
import { DIFFERS, rollUpSql } from './roll-up-sql';
import { Binds, columnOf, readColumn, run, tableOf } from './sql';
import { fromColumn, readRows, rowColumns, rowFrom } from './values';
import type { LoadedWorkspace } from './workspace';
import { RunWriter, type RunInfo } from './run-writer';

/** A lock that should have been taken before one that is held: the run starts again with what it learnt. */
export class LockOrderMissed extends Error {
  constructor(readonly claims: readonly Claim[]) {
    super('A run needs a lock out of order');
  }
}

/**
 * Answers the engine's needs from PostgreSQL, within one transaction. Writes are kept pending and flushed before the first
 * statement that has to see them; totals are worked out in a later statement than the one that locks their parents.
 */
export class PostgresDriver {
  readonly #held = new Map<string, Claim>();
  readonly #current = new Map<string, Row>();
  readonly #order: ReadonlyMap<string, number>;
  readonly #writer: RunWriter;
  #last: Claim | null = null;

  constructor(
    private readonly workspace: LoadedWorkspace,
    private readonly transaction: Transaction,
    info: RunInfo,
    /** With the whole workspace locked the order of row locks no longer matters. */
    private readonly isAlone = false,
  ) {
    this.#order = lockOrder(workspace.model);
    this.#writer = new RunWriter(workspace, transaction, info);
  }

  /** Every claim so far, to start again with. */
  claims(): readonly Claim[] {
    return [...this.#held.values()];
  }

  async answer(need: Need): Promise<Answer> {
    switch (need.kind) {
      case 'lock':
        return this.lock(need.claims);
      case 'records':
        return this.records(need.set.type, need.set.ids);
      case 'related':
        return this.related(need);
      case 'everything':
        return this.everything(need.type);
      case 'workOut':
        return this.workOut(need.work);
      case 'write':
        for (const write of need.writes) {
          const key = recordKey(write);
          this.#current.set(key, writtenRow(this.workspace.model, this.#current.get(key), write));
        }
        this.#writer.add(need.writes);
        return null;
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
    for (const type of new Set(wanted.map((claim) => claim.type))) {
      const ofType = wanted.filter((claim) => claim.type === type);
      const strength = ofType.some((claim) => claim.strength === 'write') ? 'FOR NO KEY UPDATE' : 'FOR SHARE';
      const text = `SELECT ${rowColumns(this.workspace, type, 't')} FROM ${tableOf(this.workspace.schema, type)} t
        WHERE t.id = ANY($1::uuid[]) ORDER BY t.id ${strength} OF t`;
      for (const found of await run(this.transaction, text, [ofType.map((claim) => claim.id)])) {
        const row = rowFrom(this.workspace, type, found);
        this.#current.set(recordKey(row), row);
      }
      for (const claim of ofType) this.#held.set(recordKey(claim), claim);
      this.#last = ofType.at(-1) ?? this.#last;
    }
    return null;
  }

  private compare(a: Claim, b: Claim): number {
    return this.#order.get(a.type)! - this.#order.get(b.type)! || compareText(a.id, b.id);
  }

  /** Rows that are locked or pending are known; others are read as they stand now. */
  private async records(type: string, ids: readonly string[]): Promise<Answers['records']> {
    const known = ids.flatMap((id) => this.#current.get(recordKey({ type, id })) ?? []);
    const unknown = ids.filter((id) => !this.#current.has(recordKey({ type, id })));
    const read = await readRows(this.transaction, this.workspace, type, unknown);
    return { rows: new Map([...known, ...read].map((row) => [row.id, row])), known: true };
  }

  private async related({ parents, link }: Extract<Need, { kind: 'related' }>): Promise<Answers['related']> {
    await this.#writer.flush();
    const text = `SELECT id::text FROM ${tableOf(this.workspace.schema, link.type)} WHERE ${columnOf(link.link)} = ANY($1::uuid[]) AND deleted_run IS NULL`;
    const found =
      parents.ids.length === 0 ? [] : await run<{ id: string }>(this.transaction, text, [parents.ids]);
    return rowSet(
      link.type,
      found.map(({ id }) => id),
    );
  }

  private async everything(type: string): Promise<Answers['everything']> {
    await this.#writer.flush();
    const found = await run<{ id: string }>(
      this.transaction,
      `SELECT id::text FROM ${tableOf(this.workspace.schema, type)} WHERE deleted_run IS NULL`,
    );
    return rowSet(
      type,
      found.map(({ id }) => id),
    );
  }

  private async workOut(work: readonly Work[]): Promise<Answers['workOut']> {
    await this.#writer.flush();
    const changed: WorkedOut[] = [];
    for (const { rule, targets } of work) {
      const binds = new Binds();
      const isKept = (type: string, field: string) =>
        this.workspace.plan.keeper({ type, field }) !== undefined;
      const sql = rollUpSql({
        schema: this.workspace,
        rule,
        binds,
        isKept,
        targets: binds.add(targets.ids, 'uuid[]'),
      });
      const { type } = fieldIn(this.workspace.model, rule.writes.type, rule.writes.field);
      const text = `SELECT id::text, ${readColumn(type, 'before')} AS before, before_error, ${readColumn(type, 'after')} AS after, after_error
        FROM (${sql}) w WHERE ${DIFFERS}`;
      const outcome = (value: unknown, error: ErrorCode | null): Outcome =>
        error ? { error } : { value: fromColumn(type, value) };
      for (const row of await run<WorkedOutRow>(this.transaction, text, binds.values)) {
        const [before, after] = [outcome(row.before, row.before_error), outcome(row.after, row.after_error)];
        if (!sameOutcome(before, after)) changed.push({ rule: rule.id, id: row.id, before, after });
      }
    }
    return { changed, outside: [] };
  }
}

interface WorkedOutRow {
  id: string;
  before: unknown;
  before_error: ErrorCode | null;
  after: unknown;
  after_error: ErrorCode | null;
}

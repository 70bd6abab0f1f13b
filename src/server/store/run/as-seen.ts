import {
  type Answer,
  type Answers,
  type Claim,
  type Need,
  recordKey,
  type RecordRef,
  type Row,
  rowSet,
} from '@/core/engine';
import { grouped } from '@/core/grouped';
import type { Transaction } from 'sequelize';
import { entering } from '@/server/store/session/beginning';
import { claimSql } from '@/server/store/session/answered';
import { cachedRow, cacheSeen } from '@/server/store/session/row-cache';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { stampOf } from '@/server/store/sql/row-stamp';
import { Binds, idsAmong, tableOf } from '@/server/store/sql/sql';
import { type RunInfo } from '@/server/store/write/run-row';
import { type Gate, RunWriter } from '@/server/store/write/run-writer';
import { lockingSql } from './lock-rows';
import { RowsInRun } from './rows-in-run';

/**
 * Answers the engine's needs from what this process saw last, and writes what follows by one statement: it locks all records that were relied on, and
 * writes only where each is the very version that was seen. So a save that needs nothing else is one round trip, worked out by the engine like any
 * other. What isn't known so isn't answered: then the save goes the usual way, and nothing was lost but the time.
 *
 * | the engine | is answered |
 * | --- | --- |
 * | reads records, before its locks | what was seen of them, with their versions |
 * | locks | that all stand as they were seen: the statement finds out |
 * | reads what isn't locked, or anything that a query must find | nothing |
 */
export class SeenDriver {
  readonly #rows: RowsInRun;
  readonly #seen = new Set<string>();
  /** What it locks, with the version in which it was seen. */
  readonly #locked: (Claim & { readonly stamp: string })[] = [];
  readonly #writer: RunWriter;

  constructor(
    private readonly workspace: LoadedWorkspace,
    info: RunInfo,
    /** Records that people make, by `recordKey`: that none has such an id is found out as they are written. */
    private readonly made: ReadonlySet<string>,
  ) {
    this.#rows = new RowsInRun(workspace.model);
    this.#writer = new RunWriter(workspace, null, info, (ref) => this.#rows.row(ref));
  }

  answer(need: Need): Answer | undefined {
    switch (need.kind) {
      case 'records':
        return this.records(need.set.type, need.set.ids);
      case 'above':
        return this.above(need);
      case 'lock':
        return this.lock(need.claims);
      case 'related':
        return need.parents.ids.length === 0
          ? { set: rowSet(need.link.type, []), parentOf: new Map(), isMore: false }
          : undefined;
      case 'accumulators':
        return this.#rows.beside.accumulators(need);
      case 'leaders':
        return this.#rows.beside.leaders(need);
      case 'write':
        this.#rows.write(need.writes);
        this.#writer.add(need.writes);
        return null;
      case 'defer':
        this.#writer.leave(need.later);
        return null;
      default:
        return undefined;
    }
  }

  /** What a save writes, where all is known of it that is told of it; else `null`. */
  known(refs: readonly RecordRef[]): readonly Row[] | null {
    const rows = refs.map((ref) => this.#rows.rows.get(recordKey(ref)));
    return this.#writer.isPending && rows.every((row) => row !== undefined) ? rows : null;
  }

  /** The records that it locks. */
  get locked(): readonly RecordRef[] {
    return this.#locked;
  }

  get run(): string | null {
    return this.#writer.run;
  }

  /** Sends the statement; answers whether all stood as it was seen, so that it is saved. */
  async save(transaction: Transaction): Promise<boolean> {
    const isSaved = await this.#writer.finishWhere(this.gate(), transaction);
    if (isSaved) cacheSeen(this.workspace, this.#rows.seen(this.#writer.stamp, true));
    return isSaved;
  }

  /** A record, with the version in which it was seen: it is to be locked, or else nothing is decided by it. */
  private find(ref: RecordRef): Row | undefined {
    const key = recordKey(ref);
    const here = this.#rows.rows.get(key);
    if (here || this.#locked.length > 0 || this.made.has(key)) return here;
    const seen = cachedRow(this.workspace, ref);
    if (!seen?.stamp) return undefined;
    this.#seen.add(key);
    return seen.row;
  }

  private records(type: string, ids: readonly string[]): Answers['records'] | undefined {
    const rows = new Map<string, Row>();
    for (const id of ids) {
      const row = this.find({ type, id });
      if (row) rows.set(id, row);
      else if (!this.made.has(recordKey({ type, id }))) return undefined;
    }
    return { rows, known: true };
  }

  private above({ set, link }: Extract<Need, { kind: 'above' }>): Answers['above'] | undefined {
    const rows = new Map<string, Row>();
    for (const start of set.ids) {
      let id: unknown = start;
      while (typeof id === 'string' && !rows.has(id)) {
        const row = this.find({ type: set.type, id });
        if (!row) return undefined;
        rows.set(id, row);
        id = row.values[link.link];
      }
    }
    return { rows, known: true };
  }

  /** Once: a run that finds that it needs more goes the usual way. */
  private lock(claims: readonly Claim[]): Answers['lock'] | undefined {
    if (this.#locked.length > 0) return undefined;
    for (const claim of claims) {
      const seen = cachedRow(this.workspace, claim);
      if (!seen?.stamp) return undefined;
      this.#locked.push({ ...claim, stamp: seen.stamp });
      this.#rows.lock(seen);
      this.#seen.delete(recordKey(claim));
    }
    return this.#seen.size === 0 ? { isAsRead: true } : undefined;
  }

  /**
   * The beginning of the statement: the workspace of the epoch that was compiled, then the records type by type, in the order of all locks, each type
   * once those before it are found as they were seen. `xmin` is that of the version that is locked, not of the one that the statement began with.
   */
  private gate(): Gate {
    const binds = new Binds();
    const { workspace } = this;
    const parts = [`entered AS MATERIALIZED (${entering(workspace, binds)})`];
    let before = 'entered';
    for (const [type, claims] of grouped(this.#locked, (claim) => claim.type)) {
      const [locked, seen] = [`locked_${parts.length}`, `seen_${parts.length}`];
      const ids = idsAmong(
        't.id',
        claims.map(({ id }) => id),
        binds,
      );
      const stamps = claims.map(({ stamp }) => stamp);
      parts.push(
        `${locked} AS MATERIALIZED (SELECT t.id, ${stampOf('t')} AS stamp FROM ${before}, ${tableOf(workspace.schema, type)} t
          WHERE ${ids} ${lockingSql(claims)})`,
        `${seen} AS MATERIALIZED (${standsSql(locked, stamps, binds)})`,
      );
      before = seen;
    }
    return { parts: [...parts, ...claimSql(binds, before)], seen: before, binds };
  }
}

/** Answers one row where all that was locked is as it was seen. */
function standsSql(locked: string, stamps: readonly string[], binds: Binds): string {
  if (stamps.length === 1) return `SELECT FROM ${locked} l WHERE l.stamp = ${binds.add(stamps[0], 'text')}`;
  return `SELECT FROM (SELECT array_agg(l.stamp ORDER BY l.id) AS stamps FROM ${locked} l) found WHERE found.stamps = ${binds.add(stamps, 'text[]')}`;
}

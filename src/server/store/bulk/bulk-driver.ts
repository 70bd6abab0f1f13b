import {
  type Answer,
  type ChangedPage,
  type ChangedQuery,
  type Need,
  type SetAnswers,
  type SetNeed,
  type TargetSet,
  type Touched,
  recordKey,
  type TouchedInRun,
} from '@/core/engine';
import {
  assignsOther,
  type CompiledCreate,
  type CompiledRule,
  isCreate,
  type ReactingCascade,
} from '@/core/rules';
import { lastIn, sameValue, unreachable, type Value } from '@/core/values';
import type { Transaction } from 'sequelize';
import type { Tell } from '@/server/progress';
import { askWhich } from '@/server/store/run/candidates';
import { cascadeMany } from '@/server/store/run/over-many';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
import { expressionSql, filterSql } from '@/server/store/rule-sql/expression-sql';
import type { EnteredQuery } from '@/server/store/rule-sql/result-sql';
import { RouteJoins } from '@/server/store/rule-sql/route-joins';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { fillRules } from '@/server/store/sets/fill';
import { refuseEntered } from '@/server/store/sets/refuse-entered';
import { ALL_MADE, touchedInRun, type TouchedQuery } from '@/server/store/sets/touched-in-run';
import { readRows } from '@/server/store/sql/columns';
import { Binds, columnOf, quote, run, tableOf } from '@/server/store/sql/sql';
import { forgetLater, leaveMany } from '@/server/store/write/deferred-targets';
import { keepsField } from '@/server/store/write/keeps-field';

export interface BulkDriverGiven {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  /** The run, which is written already. */
  readonly run: string;
  /** SQL of a query of the parents that the written records name, or named before, by a link's key. */
  readonly parents?: (link: string) => string;
  /** By rule of a slower pace that has come round: SQL of a query of its targets, `null` for all. */
  readonly due?: ReadonlyMap<string, string | null>;
  readonly entered?: EnteredQuery;
  readonly tell: Tell;
}

/**
 * Answers what a run over many asks, in the run's own transaction while nobody else saves: whole sets by statements over them, pages record by
 * record by the driver that saves go through too.
 */
export class BulkDriver {
  readonly #made = new Set<string>();
  #rows: PostgresDriver;

  constructor(private readonly given: BulkDriverGiven) {
    this.#rows = this.newPage();
  }

  async answer(need: Need): Promise<Answer> {
    if (need.kind === 'set') return this.answerSet(need.need);
    if (need.kind === 'bulkCascade') {
      const { transaction, workspace, run: runId } = this.given;
      return cascadeMany({ transaction, workspace, run: runId }, need);
    }
    return this.#rows.answer(need);
  }

  /** Writes what is pending. */
  async finish(): Promise<void> {
    await this.noteMade();
    await this.#rows.finish();
  }

  private newPage(): PostgresDriver {
    const { workspace, transaction, run: runId } = this.given;
    this.#made.clear();
    const going = { run: runId, made: this.#made };
    return new PostgresDriver(workspace, transaction, { kind: 'save', person: null }, true, undefined, going);
  }

  /** Records that the run made aren't copied into its ledger. */
  private async noteMade(): Promise<void> {
    const { workspace, transaction, run: runId } = this.given;
    for (const { key: type } of workspace.model.types) {
      const ids = this.#rows.pendingIds(type);
      if (ids.length === 0) continue;
      const found = await run<{ id: string }>(
        transaction,
        `SELECT id::text FROM ${tableOf(workspace.schema, type)} WHERE created_run = $1 AND id = ANY($2::uuid[])`,
        [runId, ids],
      );
      for (const { id } of found) this.#made.add(recordKey({ type, id }));
    }
  }

  private async answerSet(need: SetNeed): Promise<SetAnswers[SetNeed['kind']]> {
    const { transaction, workspace, run: runId, tell } = this.given;
    if (!['turn', 'page'].includes(need.kind)) await this.endPage();
    switch (need.kind) {
      case 'turn':
        tell({ stage: 'rules', done: need.done, of: need.of });
        return null;
      case 'changed':
        return this.changed(need.query);
      case 'page':
        return this.page(need.touched);
      case 'turned':
        return this.turned(need);
      case 'entered':
        return this.entered(need.rule);
      case 'fill':
        return this.fill(need);
      case 'leave': {
        const targets = this.targetsSql(need.targets, need.rule);
        await leaveMany(transaction, workspace.schema, {
          ...{ rule: need.rule.id, run: runId },
          ...(targets === undefined ? {} : { targets }),
        });
        return null;
      }
      case 'settled':
        await forgetLater(transaction, workspace.schema, [...need.rules]);
        return null;
      case 'askWhich':
        await askWhich({ transaction, workspace, run: runId, rule: need.rule });
        return null;
      default:
        return unreachable(need);
    }
  }

  private async page(touched: readonly Touched[]): Promise<null> {
    await this.endPage();
    for (const { after } of touched) if (after) this.#rows.know(after);
    return null;
  }

  private async endPage(): Promise<void> {
    await this.finish();
    this.#rows = this.newPage();
  }

  private async fill({
    rules,
    targets,
    acting,
    taken,
    tellsTaken,
  }: Extract<SetNeed, { kind: 'fill' }>): Promise<SetAnswers['fill']> {
    const { transaction, workspace, run: runId, entered } = this.given;
    const standing: EnteredQuery = (ref, binds) => {
      const queries = [
        ...[entered?.(ref, binds) ?? []].flat(),
        ...(taken.length > 0 ? [`SELECT unnest(${binds.add(taken, 'uuid[]')})`] : []),
      ];
      return queries.length > 0 ? queries.join(' UNION ') : null;
    };
    const found: string[] = [];
    const only = this.targetsSql(targets, rules[0]!);
    const counts = await fillRules({
      ...{ transaction, schema: workspace, rules, run: runId, isKept: keepsField(workspace.plan), acting },
      ...(only === undefined ? {} : { targets: only }),
      ...(entered || taken.length > 0 ? { entered: standing } : {}),
      ...(entered
        ? { refuse: (within) => refuseEntered({ transaction, workspace, entered }, rules, within) }
        : {}),
      ...(tellsTaken ? { tellTaken: (ids) => void found.push(...ids) } : {}),
    });
    return { counts, taken: found };
  }

  /** SQL of a query of their ids; left out for all. */
  private targetsSql(targets: TargetSet, { writes }: CompiledRule): string | undefined {
    const { workspace, run: runId, due, parents } = this.given;
    switch (targets.kind) {
      case 'all':
        return undefined;
      case 'due':
        return due?.get(targets.rule) ?? undefined;
      case 'asking':
        return `SELECT id FROM ${tableOf(workspace.schema, writes.type)} WHERE ${columnOf(targets.field)} AND changed_run = ${BigInt(runId)}`;
      case 'parents':
        return parents?.(targets.link);
      default:
        return unreachable(targets);
    }
  }

  private changed({ standing, made, ...query }: ChangedQuery): Promise<ChangedPage> {
    const { transaction, workspace, run: runId } = this.given;
    if (standing) return this.standing(standing, query);
    return touchedInRun(transaction, workspace, {
      ...{ run: runId, ...query },
      made: made === 'all' ? ALL_MADE : made === 'none' ? null : meeting(workspace, made),
    });
  }

  /** A page of the records that cascade, as if the watched fields had just been filled. */
  private async standing(
    { source, moment }: ReactingCascade,
    { after, most, among }: Pick<ChangedQuery, 'after' | 'most' | 'among'>,
  ): Promise<ChangedPage> {
    const { transaction, workspace } = this.given;
    const ids =
      among ??
      (
        await run<{ id: string }>(
          transaction,
          `SELECT t.id::text FROM ${tableOf(workspace.schema, source)} t WHERE deleted_run IS NULL AND ($1::uuid IS NULL OR t.id > $1) ORDER BY t.id LIMIT ${most}`,
          [after === '' ? null : after],
        )
      ).map(({ id }) => id);
    const rows = await readRows(transaction, workspace, source, ids);
    const tests = moment.kind === 'onChange' ? moment.tests : [];
    const touched = rows
      .sort((a, b) => (a.id < b.id ? -1 : 1))
      .map((row): TouchedInRun => {
        const filled = tests.flatMap((test) => {
          const value: Value = row.values[test.field.key] ?? null;
          const isNow = test.kind === 'became' ? sameValue(value, test.value) : test.kind === 'changed';
          return isNow && value !== null ? [test.field.key] : [];
        });
        const emptied = Object.fromEntries(filled.map((key) => [key, null]));
        const before = { ...row, values: { ...row.values, ...emptied } };
        return { type: source, id: row.id, fields: new Set(filled), before, after: row, written: [] };
      });
    return { touched, next: ids.length < most ? null : lastIn(ids) };
  }

  /** Records for which a rule means something else since the day turned: of some, or a page of all in the order of their ids. */
  private async turned({ rule, from, which, most }: Extract<SetNeed, { kind: 'turned' }>): Promise<string[]> {
    const { transaction, workspace } = this.given;
    const binds = new Binds();
    const isKept = keepsField(workspace.plan);
    const joins = new RouteJoins({ schema: workspace, from: rule.writes.type, alias: 't', binds, isKept });
    const [meets, met] = [rule.where, from.where].map((where) =>
      where ? expressionSql(where, joins, binds) : 'true',
    );
    const found = await run<{ id: string }>(
      transaction,
      `SELECT t.id::text FROM ${tableOf(workspace.schema, rule.writes.type)} t ${joins.sql()}
        WHERE t.deleted_run IS NULL AND ${'among' in which ? `t.id = ANY(${binds.add(which.among, 'uuid[]')})` : which.after === '' ? 'true' : `t.id > ${binds.add(which.after, 'uuid')}`}
          AND ((${meets}) IS DISTINCT FROM (${met})${assignsOther(rule, from) ? ` OR (${meets})` : ''}) ORDER BY t.id LIMIT ${most}`,
      binds.values,
    );
    return found.map(({ id }) => id);
  }

  /** Ids of records of which a person entered the rule's field in this run, or a rule that made them assigned it. */
  private async entered({ writes }: CompiledRule): Promise<string[]> {
    const { transaction, workspace, run: runId, entered } = this.given;
    const binds = new Binds();
    const sql = [
      ...[entered?.(writes, binds) ?? []].flat(),
      ...workspace.plan.turns
        .filter(isCreate)
        .filter(({ makes }) => makes === writes.type)
        .flatMap((maker) => assignedSql(workspace, { maker, field: writes.field, run: runId }, binds) ?? []),
    ];
    if (sql.length === 0) return [];
    const found = await run<{ id: string }>(
      transaction,
      `SELECT x.id::text FROM (${sql.join(' UNION ')}) x(id)`,
      binds.values,
    );
    return found.map(({ id }) => id);
  }
}

/** Records that meet the rule's condition. */
const meeting =
  (workspace: LoadedWorkspace, { where, writes }: CompiledCreate): NonNullable<TouchedQuery['made']> =>
  (binds) => {
    if (!where) return ALL_MADE();
    const isKept = keepsField(workspace.plan);
    const routes = new RouteJoins({ schema: workspace, from: writes.type, alias: 't', binds, isKept });
    return { where: filterSql(where, routes, binds), joins: routes.sql() };
  };

/** SQL of a query of the records that a rule made in a run and to whose field it gave a value; `null` where it never does. */
function assignedSql(
  workspace: LoadedWorkspace,
  {
    maker,
    field,
    run: runId,
  }: { readonly maker: CompiledCreate; readonly field: string; readonly run: string },
  binds: Binds,
): string | null {
  const assigned = maker.assigned.find(({ target }) => target.key === field);
  if (!assigned) return null;
  const source = maker.writes.type;
  const joins = new RouteJoins({
    ...{ schema: workspace, from: source, alias: 's', binds, isKept: keepsField(workspace.plan) },
  });
  const isGiven = assigned.given ? expressionSql(assigned.given, joins, binds) : 'true';
  return `SELECT m.made FROM ${quote(workspace.schema)}._made m JOIN ${tableOf(workspace.schema, source)} s ON s.id = m.source ${joins.sql()}
    WHERE m.run = ${binds.add(runId, 'bigint')} AND m.rule = ${binds.add(maker.id, 'uuid')} AND (${isGiven})`;
}

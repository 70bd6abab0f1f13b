import { firstIn, type ErrorCode, type Outcome } from '@/core/values';
import { fieldIn, typeIn } from '@/core/model';
import { readerOf, type Row } from '@/core/engine';
import {
  type CompiledRule,
  type CompiledSource,
  givingResult,
  isAlone,
  isReactingCascade,
  versionOn,
} from '@/core/rules';
import { type Explanation, explainFormula, explainPage, type SourceRows } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { expressionSql } from '@/server/store/rule-sql/expression-sql';
import { membersSql, RouteJoins } from '@/server/store/rule-sql/route-joins';
import { rollUpSql } from '@/server/store/rule-sql/roll-up-sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { Refusal } from '@/server/refusal';
import { SnapshotDriver } from '@/server/store/run/snapshot-driver';
import { Binds, columnOf, quote, readColumn, run } from '@/server/store/sql/sql';
import { fromColumn, rowColumns, rowFrom } from '@/server/store/sql/columns';
import { currentWorkspace, type LoadedWorkspace } from '@/server/store/session/workspace';
import { findRow, namesFor } from './records';
import { keepsField } from '@/server/store/write/keeps-field';
import { personName, RUN_COLUMNS, type StoredRun } from '@/server/queries/run-head';

export interface ExplanationInput {
  readonly type: string;
  readonly id: string;
  readonly field: string;
  /** Members before this one are left out, and so many are given: those that count first, then by title. */
  readonly from: number;
  readonly limit: number;
}

/** What a kept value is made of, a page of it. Refuses a field that no live rule keeps. */
export function getExplanation(known: LoadedWorkspace, input: ExplanationInput): Promise<Explanation> {
  const { type, id, field } = input;
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const { model, plan } = workspace;
    const parent = await findRow(transaction, workspace, type, id);
    if (!model.field(type, field))
      throw new Refusal(404, 'field.unknown', `${typeIn(model, type).name} has no field “${field}”.`);
    const keeping = plan.rules.filter(
      ({ kind, writes }) => kind !== 'reactingCascade' && writes.type === type && writes.field === field,
    );
    const driver = new SnapshotDriver(workspace, transaction);
    driver.know(parent);
    if (keeping.length > 1) await driver.loadInputs(firstIn(keeping), [id]);
    const rule = versionOn(keeping, parent, readerOf(model, driver.overlay));
    if (!rule || isReactingCascade(rule)) {
      const message = `${fieldIn(model, type, field).name} isn’t kept by a live rule: people enter it, so there is nothing to open.`;
      throw new Refusal(404, 'field.notKept', message);
    }
    if (isAlone(rule)) {
      await driver.loadInputs(rule, [id]);
      const people = Object.fromEntries(workspace.people);
      const names = { ...people, ...(await namesFor(transaction, workspace, [parent])) };
      return explainFormula(
        { model, plan, store: driver.overlay, names },
        { rule, parent },
        {
          ...{ sources: [], next: null, result: await resultOf(transaction, workspace, rule, id) },
          writtenBy: await lastWriter(transaction, workspace, input),
        },
      );
    }
    await driver.loadOwn(rule, [parent]);
    const pages: (SourceRows & Counted)[] = [];
    let { from } = input;
    let left = input.limit;
    for (const [at, source] of rule.sources.entries()) {
      const page = await readPage(transaction, workspace, source, {
        ...input,
        from: Math.max(0, from),
        limit: left,
      });
      await driver.loadAround(rule, source, page.rows);
      pages.push({ source: at, ...page });
      from -= page.total;
      left -= page.rows.length;
    }
    const names = {
      ...Object.fromEntries(workspace.people),
      ...(await namesFor(transaction, workspace, [parent, ...pages.flatMap(({ rows }) => rows)])),
    };
    const shown = input.from + pages.reduce((sum, { rows }) => sum + rows.length, 0);
    const total = pages.reduce((sum, page) => sum + page.total, 0);
    return explainPage(
      { model, plan, store: driver.overlay, names },
      { rule, parent, pages },
      {
        sources: pages.map((page) => ({ counted: page.counted, total: page.total })),
        next: shown < total ? shown : null,
        result: await resultOf(transaction, workspace, rule, id),
        writtenBy: await lastWriter(transaction, workspace, input),
      },
    );
  });
}

interface Counted {
  readonly counted: number;
  readonly total: number;
}

/** A page of a source's members: those that count first, over a bridge each end once among them, then by title. */
async function readPage(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  source: CompiledSource,
  { id, from, limit }: ExplanationInput,
): Promise<Counted & { readonly rows: readonly Row[] }> {
  const { model, plan } = workspace;
  const binds = new Binds();
  const routes = new RouteJoins({
    schema: workspace,
    from: source.type,
    alias: 'c',
    binds,
    isKept: keepsField(plan),
  });
  const condition = source.condition ? expressionSql(source.condition, routes, binds) : 'true';
  const value = source.value ? `${expressionSql(source.value, routes, binds)} IS NOT NULL` : 'true';
  const counts = `(${condition} AND ${value})`;
  const end = source.once ? routes.read(source.once) : null;
  const title = columnOf(typeIn(model, source.type).title);
  const top = binds.add(id, 'uuid');
  const members = membersSql(workspace, source.route, { tops: `ARRAY[${top}]` });
  const of = `FROM ${members.from} ${routes.sql()} WHERE c.deleted_run IS NULL AND ${members.parent} = ${top}`;
  const counted = `count(${end ? `DISTINCT ${end}` : '*'}) FILTER (WHERE ${counts})`;
  const found = firstIn(
    await run<{ total: number; counted: number }>(
      transaction,
      `SELECT count(*)::int AS total, (${counted})::int AS counted ${of}`,
      binds.values,
    ),
  );
  const window = `LIMIT ${binds.add(limit, 'int')} OFFSET ${binds.add(from, 'int')}`;
  const rows = await run(
    transaction,
    `SELECT ${rowColumns(workspace, source.type, 'c')} ${of} ORDER BY ${counts} DESC, c.${title}, c.id ${window}`,
    binds.values,
  );
  return { rows: rows.map((row) => rowFrom(workspace, source.type, row)), ...found };
}

/** What the rule gives now, worked out over all members. */
async function resultOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: CompiledRule,
  id: string,
): Promise<Outcome> {
  const binds = new Binds();
  const targets = binds.add([id], 'uuid[]');
  const asked = rule.kind === 'rollUp' && rule.map ? givingResult(rule) : rule;
  const sql = rollUpSql({
    schema: workspace,
    rules: [asked],
    binds,
    isKept: keepsField(workspace.plan),
    targets,
  });
  const { type } = asked.target;
  const [row] = await run<{ after: unknown; error: ErrorCode | null }>(
    transaction,
    `SELECT ${readColumn(type, 'after0')} AS after, after_error0 AS error FROM (${sql}) w`,
    binds.values,
  );
  return row?.error ? { error: row.error } : { value: fromColumn(type, row?.after) };
}

async function lastWriter(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { type, id, field }: ExplanationInput,
): Promise<Explanation['writtenBy']> {
  const s = quote(workspace.schema);
  const [found] = await run<StoredRun>(
    transaction,
    `SELECT ${RUN_COLUMNS} FROM ${s}._ledger l JOIN ${s}._run r ON r.id = l.run
      WHERE l.type = $1 AND l.record = $2 AND l.changes ? $3 ORDER BY l.run DESC LIMIT 1`,
    [type, id, field],
  );
  return found ? { run: found.run, at: found.at, person: personName(workspace, found.person) } : null;
}

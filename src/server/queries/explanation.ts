import { fieldIn, typeIn } from '@/core/model';
import type { Row } from '@/core/engine';
import { type CompiledRollUp } from '@/core/rules';
import type { ErrorCode, Outcome } from '@/core/values';
import { type Explanation, explainPage } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { expressionSql } from '../store/expression-sql';
import { RouteJoins } from '../store/route-joins';
import { rollUpSql } from '../store/roll-up-sql';
import { inSnapshot } from '../store/transactions';
import { Refusal } from '../refusal';
import { LoadingDriver } from '../store/loading-driver';
import { Binds, columnOf, quote, readColumn, run, tableOf } from '../store/sql';
import { fromColumn, rowColumns, rowFrom } from '../store/values';
import { type LoadedWorkspace, readWorkspace } from '../store/workspace';
import { findRow, namesFor } from './records';
import { keepsField } from './rules';
import { personName, RUN_COLUMNS, type StoredRun } from './run-head';

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
    const workspace = await readWorkspace(transaction, known);
    const { model, plan } = workspace;
    const parent = await findRow(transaction, workspace, type, id);
    if (!model.field(type, field))
      throw new Refusal(404, 'field.unknown', `${typeIn(model, type).name} has no field “${field}”.`);
    const rule = plan.keeper({ type, field });
    if (!rule) {
      const message = `${fieldIn(model, type, field).name} isn’t kept by a live rule: people enter it, so there is nothing to open.`;
      throw new Refusal(404, 'field.notKept', message);
    }
    const page = await readPage(transaction, workspace, rule, input);
    const driver = new LoadingDriver(workspace, transaction);
    await driver.loadRoutes(rule, page.rows);
    const names = {
      ...Object.fromEntries(workspace.people),
      ...(await namesFor(transaction, workspace, page.rows)),
    };
    const next = input.from + page.rows.length;
    return explainPage(
      { model, plan, store: driver.overlay, names },
      { rule, parent, rows: page.rows },
      {
        ...{ counted: page.counted, total: page.total, next: next < page.total ? next : null },
        result: await resultOf(transaction, workspace, rule, id),
        writtenBy: await lastWriter(transaction, workspace, input),
      },
    );
  });
}

interface Page {
  readonly rows: readonly Row[];
  readonly counted: number;
  readonly total: number;
}

async function readPage(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: CompiledRollUp,
  { id, from, limit }: ExplanationInput,
): Promise<Page> {
  const { model, schema, plan } = workspace;
  const binds = new Binds();
  const { type, link } = rule.link;
  const routes = new RouteJoins({
    schema: workspace,
    from: type,
    alias: 't',
    binds,
    isKept: keepsField(plan),
  });
  const condition = rule.condition
    ? expressionSql(rule.condition, (field) => routes.read(field), binds)
    : 'true';
  const value = rule.value ? `${routes.read(rule.value)} IS NOT NULL` : 'true';
  const counts = `(${condition} AND ${value})`;
  const title = columnOf(typeIn(model, type).title);
  const of = `FROM ${tableOf(schema, type)} t ${routes.sql()} WHERE t.deleted_run IS NULL AND t.${columnOf(link)} = ${binds.add(id, 'uuid')}`;
  const [{ total, counted }] = (await run<{ total: number; counted: number }>(
    transaction,
    `SELECT count(*)::int AS total, (count(*) FILTER (WHERE ${counts}))::int AS counted ${of}`,
    binds.values,
  )) as [{ total: number; counted: number }];
  const window = `LIMIT ${binds.add(limit, 'int')} OFFSET ${binds.add(from, 'int')}`;
  const found = await run(
    transaction,
    `SELECT ${rowColumns(workspace, type, 't')} ${of} ORDER BY ${counts} DESC, t.${title}, t.id ${window}`,
    binds.values,
  );
  return { rows: found.map((row) => rowFrom(workspace, type, row)), total, counted };
}

/** What the rule gives now, worked out over all members. */
async function resultOf(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  rule: CompiledRollUp,
  id: string,
): Promise<Outcome> {
  const binds = new Binds();
  const targets = binds.add([id], 'uuid[]');
  const sql = rollUpSql({
    schema: workspace,
    rules: [rule],
    binds,
    isKept: keepsField(workspace.plan),
    targets,
  });
  const { type } = rule.target;
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
    `SELECT ${RUN_COLUMNS} FROM ${s}.ledger l JOIN ${s}.run r ON r.id = l.run
      WHERE l.type = $1 AND l.record = $2 AND l.changes ? $3 ORDER BY l.run DESC LIMIT 1`,
    [type, id, field],
  );
  return found ? { run: found.run, at: found.at, person: personName(workspace, found.person) } : null;
}

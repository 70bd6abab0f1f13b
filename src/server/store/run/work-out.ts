import { type Answers, sameOutcome, type Work, type WorkedOut } from '@/core/engine';
import { fieldIn, type Model } from '@/core/model';
import { type CompiledRule, isKeptByDifference, isKeptByExtremum, isReacting } from '@/core/rules';
import { Decimal, type ErrorCode, type Outcome } from '@/core/values';
import { type Transaction } from 'sequelize';
import { keepsField } from '@/server/store/write/keeps-field';
import { differsSql, keptDiffersSql, rollUpSql } from '@/server/store/rule-sql/roll-up-sql';
import { Binds, readColumn, runHot } from '@/server/store/sql/sql';
import { fromColumn } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** Rules over the same link in one statement; each is asked for its own targets only. */
export async function workOutInSql(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  work: readonly Work[],
): Promise<Answers['workOut']> {
  const rules = work.map(({ rule }) => rule);
  const binds = new Binds();
  const isKept = keepsField(workspace.plan);
  const ids = new Set(work.flatMap(({ targets }) => targets.ids));
  const targets = binds.add([...ids], 'uuid[]');
  const sql = rollUpSql({
    schema: workspace,
    rules,
    binds,
    isKept,
    targets,
    withKept: true,
    withLeader: true,
  });
  const columns = rules.map((rule, at) => {
    const { type } = fieldIn(workspace.model, rule.writes.type, rule.writes.field);
    const differs = [differsSql(at), keptDiffersSql(rule, at, true)]
      .filter((sql) => sql !== null)
      .join(' OR ');
    return `${readColumn(type, `before${at}`)} AS before${at}, before_error${at}, ${readColumn(type, `after${at}`)} AS after${at}, after_error${at},
      (${differs}) AS differs${at}${isReacting(rule) ? `, row${at}` : ''}${isKeptByExtremum(rule) ? `, leader${at}::text AS leader${at}` : ''}${isKeptByDifference(rule) ? `, count${at}::int AS count${at}, sum${at}::text AS sum${at}, errors${at}::int AS errors${at}` : ''}`;
  });
  const text = `SELECT id::text, ${columns.join(', ')} FROM (${sql}) w`;
  const found = await runHot(transaction, workspace.epoch, text, binds.values);
  const changed = work.flatMap(({ rule, targets: own }, at) => {
    const wanted = new Set(own.ids);
    return found
      .filter((row) => wanted.has(row.id as string) && row[`differs${at}`] === true)
      .map((row) => workedOut(workspace.model, rule, at, row));
  });
  return {
    changed: changed.filter(
      ({ before, after, accumulator, row, leader }) =>
        accumulator || row !== undefined || leader !== undefined || !sameOutcome(before, after),
    ),
    outside: [],
  };
}

function workedOut(model: Model, rule: CompiledRule, at: number, row: Record<string, unknown>): WorkedOut {
  const { type } = fieldIn(model, rule.writes.type, rule.writes.field);
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

import { firstIn } from '@/core/values';
import { compileRule, isCreate, partsOf, type Rule, type RuleDefinition } from '@/core/rules';
import {
  closedFields,
  type FieldMeasure,
  type ImportMeasure,
  measuredFindings,
  type ReviewFinding,
  testedFields,
} from '@/core/verify';
import type { Transaction } from 'sequelize';
import { refuse } from '@/server/refusal';
import { columnOf, quote, run, tableOf } from '@/server/store/sql/sql';
import { peopleFindings } from './people-findings';
import { inSnapshot } from '@/server/store/session/transactions';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';

/** How far back it is looked for imports, in days. */
const LOOKED_BACK = 90;

/** What the data says of a rule as it is written: of what its conditions test, and of imports into what it keeps. */
export async function ruleMeasures(key: string, definition: RuleDefinition): Promise<ReviewFinding[]> {
  const known = await loadWorkspace(key);
  return inSnapshot(async (transaction) => {
    const workspace = await currentWorkspace(transaction, known);
    const rule: Rule = { id: '', version: '', name: '', definition };
    const compiled = compileRule(workspace.model, rule);
    if (!compiled.ok) throw refuse(422, compiled.problems);
    const fields: FieldMeasure[] = [];
    for (const { type, field } of testedFields(workspace.model, definition)) {
      const counted = firstIn(
        await run<{ records: number; empty: number }>(
          transaction,
          `SELECT count(*)::int AS records, (count(*) - count(${columnOf(field)}))::int AS empty
          FROM ${tableOf(workspace.schema, type)} WHERE deleted_run IS NULL`,
        ),
      );
      fields.push({ type, field, ...counted });
    }
    const imports: ImportMeasure[] = [];
    // Where a rule keeps the field already imports can't fill it.
    for (const ref of closedFields(workspace.model, definition).filter((one) => !workspace.plan.keeper(one)))
      imports.push(...(await importsInto(transaction, workspace, ref)));
    return [
      ...measuredFindings(workspace.model, definition, fields, imports),
      ...(await peopleFindings(
        transaction,
        workspace,
        definition,
        isCreate(compiled.rule) ? [compiled.rule] : partsOf(compiled.rule),
      )),
    ];
  });
}

/** Records that got a value of a field by an import whose rows had it; what rules wrote along with one doesn't count. */
async function importsInto(
  transaction: Transaction,
  { schema, timeZone }: LoadedWorkspace,
  { type, field }: { readonly type: string; readonly field: string },
): Promise<ImportMeasure[]> {
  const s = quote(schema);
  const [found] = await run<{ records: number; last: string | null }>(
    transaction,
    `WITH imports AS (SELECT id, at FROM ${s}._run WHERE kind = 'import' AND $2 = ANY (filled) AND at > now() - interval '${LOOKED_BACK} days'),
      filled AS (
        SELECT l.record AS id, i.at FROM imports i JOIN ${s}._ledger l ON l.run = i.id
          WHERE l.type = $1 AND l.changes ? $2 AND NOT COALESCE(l.sources ? $2, false)
        UNION ALL
        SELECT t.id, i.at FROM imports i JOIN ${tableOf(schema, type)} t ON t.created_run = i.id
          WHERE t.deleted_run IS NULL AND t.${columnOf(field)} IS NOT NULL
            AND NOT EXISTS (SELECT FROM ${s}._ledger l WHERE l.run = i.id AND l.record = t.id AND l.sources ? $2)
      )
      SELECT count(DISTINCT id)::int AS records, (max(at) AT TIME ZONE $3)::date::text AS last FROM filled`,
    [type, field, timeZone],
  );
  return found && found.last !== null ? [{ type, field, records: found.records, lastDay: found.last }] : [];
}

import { certain, lastIn } from '@/core/values';
import { type Edit, makeAfter, type Ripple, runWith } from '@/core/engine';
import type { RunContext } from '@/core/expression';
import { assignsOther, type CompiledCreate } from '@/core/rules';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { keepsField } from '@/server/store/write/keeps-field';
import { refuse } from '@/server/refusal';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
import { expressionSql, filterSql } from '@/server/store/rule-sql/expression-sql';
import { RouteJoins } from '@/server/store/rule-sql/route-joins';
import { contextOfRun } from '@/server/store/write/run-context';
import { Binds, run as runSql, tableOf } from '@/server/store/sql/sql';
import { ALL_MADE, type TouchedQuery, touchedInRun } from '@/server/store/sets/touched-in-run';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

export interface BulkCreate {
  readonly transaction: Transaction;
  readonly workspace: LoadedWorkspace;
  /** The run that changed many records. */
  readonly run: string;
  readonly rule: CompiledCreate;
  /** Types of which it made or changed records. */
  readonly touched: ReadonlySet<string>;
  /** What the rule meant before the settled day turned in this run. */
  readonly turned?: CompiledCreate;
}

/** So many records that changed are looked at together. */
const PAGE = 2_000;

/**
 * What a rule makes after a run over many records, as an import or an edit of a list, and how it looks after what it made: the engine says it,
 * page by page, in the same run; nobody else saves meanwhile. Of records that the run made only those that meet the condition are looked
 * at. Answers how many it made.
 */
export async function bulkCreate(input: BulkCreate): Promise<number> {
  const { workspace, rule, touched } = input;
  const source = rule.writes.type;
  const types = [source, rule.makes, ...rule.reads.map(({ type }) => type)];
  const facts = await contextOfRun(input.transaction, workspace, input.run);
  const make = (page: TouchedPage, ids: readonly string[]) => makePage(input, { page, ids, facts });
  let made = 0;
  const seen = new Set<string>();
  for (const type of [...new Set(types)].filter((one) => touched.has(one)))
    for (let after = ''; ;) {
      const page = await touchedInRun(input.transaction, workspace, {
        ...{ run: input.run, type, after, most: PAGE, watched: null, isGoneTold: type === source },
        made: type === source ? meeting(workspace, rule) : null,
      });
      if (page.length === 0) break;
      const own = type === source && input.turned ? page.map(({ id }) => id) : [];
      for (const id of own) seen.add(id);
      const ids = own.length > 0 ? await turnedIds(input, certain(input.turned), { among: own }) : [];
      made += await make(page, ids);
      if (page.length < PAGE) break;
      after = lastIn(page).id;
    }
  if (input.turned)
    for (let after = ''; ;) {
      const ids = await turnedIds(input, input.turned, { after });
      made += await make(
        [],
        ids.filter((id) => !seen.has(id)),
      );
      if (ids.length < PAGE) break;
      after = lastIn(ids);
    }
  return made;
}

/** Records for which the rule means something else since the day turned: of some, or a page of all in the order of their ids. */
async function turnedIds(
  { transaction, workspace, rule }: BulkCreate,
  from: CompiledCreate,
  which: { readonly among: readonly string[] } | { readonly after: string },
): Promise<string[]> {
  const binds = new Binds();
  const isKept = keepsField(workspace.plan);
  const joins = new RouteJoins({ schema: workspace, from: rule.writes.type, alias: 't', binds, isKept });
  const [meets, met] = [rule.where, from.where].map((where) =>
    where ? expressionSql(where, joins, binds) : 'true',
  );
  const found = await runSql<{ id: string }>(
    transaction,
    `SELECT t.id::text FROM ${tableOf(workspace.schema, rule.writes.type)} t ${joins.sql()}
      WHERE t.deleted_run IS NULL AND ${'among' in which ? `t.id = ANY(${binds.add(which.among, 'uuid[]')})` : `t.id::text > ${binds.add(which.after, 'text')}`}
        AND ((${meets}) IS DISTINCT FROM (${met})${assignsOther(rule, from) ? ` OR (${meets})` : ''}) ORDER BY t.id::text LIMIT ${PAGE}`,
    binds.values,
  );
  return found.map(({ id }) => id);
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

type TouchedPage = Awaited<ReturnType<typeof touchedInRun>>;

/** Records that the run changed, and those for which the rule means something else since the day turned. */
interface PageOf {
  readonly page: TouchedPage;
  readonly ids: readonly string[];
  readonly facts: RunContext | null;
}

async function makePage(
  { transaction, workspace, run, rule, turned }: BulkCreate,
  { page, ids, facts }: PageOf,
): Promise<number> {
  if (page.length + ids.length === 0) return 0;
  const { model, plan } = workspace;
  const made = new Set(page.filter(({ before }) => before === null).map(({ type, id }) => `${type} ${id}`));
  const driver = goingOn({ transaction, workspace }, run, made);
  for (const { after } of page) if (after) driver.know(after);
  const edits = page.map(({ type, id, written, after }): Edit => ({
    ...{ kind: 'edit', type, id },
    values: Object.fromEntries(written.map((field) => [field, certain(after).values[field] ?? null])),
  }));
  const touched = new Map(page.map((entry) => [`${entry.type} ${entry.id}`, entry]));
  const outcome = await runWith(
    (need) => driver.answer(need),
    makeAfter({
      ...{ model, plan, rule, touched, edits, newId },
      facts,
      ...(turned ? { turned: { from: turned, ids } } : {}),
    }),
  );
  if (outcome.kind === 'refused') throw refuse(422, outcome.problems);
  await driver.finish();
  return countsOf(outcome.ripple).made;
}

/** Writes on in a run that is written already; records that it made aren't copied into the ledger. */
export const goingOn = (
  { transaction, workspace }: Pick<BulkCreate, 'transaction' | 'workspace'>,
  run: string,
  made: ReadonlySet<string>,
): PostgresDriver =>
  new PostgresDriver(workspace, transaction, { kind: 'save', person: null }, true, undefined, { run, made });

/** What a rule makes, or proposes, for records for which it is asked, in a run that goes on. */
export async function makeOthers(
  input: Pick<BulkCreate, 'transaction' | 'workspace' | 'rule'> & { readonly facts: RunContext },
  run: string,
  asked: readonly string[],
): Promise<{ readonly made: number; readonly proposed: number }> {
  if (asked.length === 0) return { made: 0, proposed: 0 };
  const { model, plan } = input.workspace;
  const driver = goingOn(input, run, new Set());
  const outcome = await runWith(
    (need) => driver.answer(need),
    makeAfter({
      ...{ model, plan, rule: input.rule, touched: new Map(), edits: [], asked, newId },
      facts: input.facts,
    }),
  );
  if (outcome.kind === 'refused') throw refuse(422, outcome.problems);
  await driver.finish();
  return countsOf(outcome.ripple);
}

/** How many records rules made in a run, and how many proposals wait for a person. */
export const countsOf = ({
  events,
  proposals,
}: Ripple): { readonly made: number; readonly proposed: number } => ({
  made: events.filter(({ kind, rule }) => kind === 'created' && rule !== undefined).length,
  proposed: proposals.filter(({ isDone }) => !isDone).length,
});

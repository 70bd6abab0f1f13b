import { firstIn } from '@/core/values';
import type { Later } from '@/core/engine';
import type { Transaction } from 'sequelize';
import { type Binds, quote, run } from '@/server/store/sql/sql';

/** Most targets that one run of a slower pace works out record by record; more are filled by statements over whole sets. */
export const MOST_AT_ONCE = 5_000;

const tableIn = (schema: string): string => `${quote(schema)}._later`;

/** What a run leaves for later paces, as part of its last statement, in which `run` is its row. */
export function laterSql(schema: string, later: readonly Later[], binds: Binds): string[] {
  const left = later.flatMap(({ rule, ids }) => ids.map((record) => ({ rule, record })));
  if (left.length === 0) return [];
  const document = binds.add(JSON.stringify(left), 'jsonb');
  return [
    `left_later AS (INSERT INTO ${tableIn(schema)} (rule, record, run)
      SELECT x.rule, x.record, run.id FROM jsonb_to_recordset(${document}) AS x(rule uuid, record uuid), run)`,
  ];
}

export interface LeftByMany {
  readonly rule: string;
  readonly run: string;
  /** SQL of a query of the ids of targets, `NULL` among them of no account; left out for all there are. */
  readonly targets?: string;
}

/** What a run over many records leaves for a rule of a slower pace. */
export async function leaveMany(
  transaction: Transaction,
  schema: string,
  { rule, run: runId, targets }: LeftByMany,
): Promise<void> {
  const from =
    targets === undefined ? '(VALUES (NULL::uuid)) AS x(id)' : `(${targets}) AS x(id) WHERE x.id IS NOT NULL`;
  await run(
    transaction,
    `INSERT INTO ${tableIn(schema)} (rule, record, run) SELECT $1, x.id, $2 FROM ${from}`,
    [rule, runId],
  );
}

/** How many targets wait for rules; `null` where all of a rule's do, or more than are worked out record by record. */
export async function countLater(
  transaction: Transaction,
  schema: string,
  rules: readonly string[],
): Promise<number | null> {
  const found = firstIn(
    await run<{ number: number; all: boolean }>(
      transaction,
      `SELECT count(*)::int AS number, COALESCE(bool_or(record IS NULL), false) AS all
      FROM (SELECT record FROM ${tableIn(schema)} WHERE rule = ANY($1::uuid[]) ORDER BY record NULLS FIRST LIMIT ${MOST_AT_ONCE + 1}) l`,
      [rules],
    ),
  );
  return found.all || found.number > MOST_AT_ONCE ? null : found.number;
}

/**
 * Takes the targets that wait, for working them out in the same transaction: what saves leave after this statement stays for the next
 * time, since they may not be seen by it. `records`: those of these records only.
 */
export async function takeLater(
  transaction: Transaction,
  schema: string,
  rules: readonly string[],
  records?: readonly string[],
): Promise<Map<string, string[]>> {
  const found = await run<{ rule: string; record: string }>(
    transaction,
    `WITH taken AS (DELETE FROM ${tableIn(schema)} WHERE rule = ANY($1::uuid[]) AND ($2::uuid[] IS NULL OR record = ANY($2)) RETURNING rule, record)
      SELECT DISTINCT rule::text, record::text FROM taken WHERE record IS NOT NULL ORDER BY rule, record`,
    [rules, records ?? null],
  );
  const taken = new Map<string, string[]>();
  for (const one of found) taken.set(one.rule, [...(taken.get(one.rule) ?? []), one.record]);
  return taken;
}

/** Name of the temporary table of what was taken: rule, its position among those asked for, and record, `NULL` for all. */
const TAKEN = 'pg_temp.later__taken';

/** The same for many: into a temporary table. Answers for each rule SQL of a query of its targets, `null` for all. */
export async function takeMany(
  transaction: Transaction,
  schema: string,
  rules: readonly string[],
): Promise<Map<string, string | null>> {
  await run(
    transaction,
    `CREATE TEMPORARY TABLE later__taken (rule uuid NOT NULL, nth integer NOT NULL, record uuid) ON COMMIT DROP`,
  );
  await run(
    transaction,
    `WITH taken AS (DELETE FROM ${tableIn(schema)} WHERE rule = ANY($1::uuid[]) RETURNING rule, record)
      INSERT INTO ${TAKEN} SELECT DISTINCT rule, array_position($1::uuid[], rule), record FROM taken`,
    [rules],
  );
  const found = await run<{ rule: string; nth: number; all: boolean }>(
    transaction,
    `SELECT rule::text, nth, bool_or(record IS NULL) AS all FROM ${TAKEN} GROUP BY rule, nth`,
  );
  return new Map(
    found.map(({ rule, nth, all }) => [
      rule,
      all ? null : `SELECT record FROM ${TAKEN} WHERE nth = ${nth} AND record IS NOT NULL`,
    ]),
  );
}

/** Nothing waits any more for rules that were filled, or that stand still. */
export const forgetLater = (
  transaction: Transaction,
  schema: string,
  rules: readonly string[],
): Promise<unknown> =>
  run(transaction, `DELETE FROM ${tableIn(schema)} WHERE rule = ANY($1::uuid[])`, [rules]);

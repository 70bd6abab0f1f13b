import { changeState } from '@/server/actions/write-rules';
import { Client } from 'pg';
import type { RollUp } from '@/core/rules';
import { FIVE, goLive, TEN, TESTER, workspaceOf } from './data';
import { compare, type Figure, timed } from './measure';

const KEY = 'bench-live';
const SCHEMA = 'w_bench_live';
const EXHIBITIONS = 10_000;
const LOANS = 1_000_000;

const money = (sql: string) =>
  `CASE WHEN ${sql} IS NULL THEN NULL ELSE jsonb_build_object('amount', ${sql}::text, 'currency', 'GBP') END`;

/** All five by hand: one grouped pass, the records that differ, and the same ledger. */
const BY_HAND = `
  WITH run AS (INSERT INTO ${SCHEMA}.run (kind) VALUES ('live') RETURNING id),
  g AS (
    SELECT exhibition,
      COALESCE(sum(insured_value) FILTER (WHERE stage = 'agreed'), 0) AS insured_total, count(*) FILTER (WHERE stage = 'agreed') AS loan_count,
      round(avg(fee), 2) AS average_fee, COALESCE(sum(fee), 0) AS fee_total, max(due_back) FILTER (WHERE stage = 'agreed') AS last_due_back
    FROM ${SCHEMA}.loan WHERE deleted_run IS NULL GROUP BY exhibition
  ),
  d AS (
    SELECT e.id, g.*, e.insured_total AS o1, e.loan_count AS o2, e.average_fee AS o3, e.fee_total AS o4, e.last_due_back AS o5
    FROM ${SCHEMA}.exhibition e JOIN g ON g.exhibition = e.id
    WHERE (e.insured_total, e.loan_count, e.average_fee, e.fee_total, e.last_due_back)
      IS DISTINCT FROM (g.insured_total, g.loan_count, g.average_fee, g.fee_total, g.last_due_back)
  ),
  u AS (
    UPDATE ${SCHEMA}.exhibition e SET insured_total = d.insured_total, loan_count = d.loan_count, average_fee = d.average_fee,
      fee_total = d.fee_total, last_due_back = d.last_due_back, changed_run = run.id
    FROM d, run WHERE e.id = d.id
  )
  INSERT INTO ${SCHEMA}.ledger (run, type, record, event, changes, sources)
  SELECT run.id, 'exhibition', d.id, 'changed', jsonb_build_object(
    'insuredTotal', jsonb_build_array(${money('d.o1')}, ${money('d.insured_total')}),
    'loanCount', jsonb_build_array(d.o2::text, d.loan_count::text),
    'averageFee', jsonb_build_array(${money('d.o3')}, ${money('d.average_fee')}),
    'feeTotal', jsonb_build_array(${money('d.o4')}, ${money('d.fee_total')}),
    'lastDueBack', jsonb_build_array(d.o5::text, d.last_due_back::text)), $1::jsonb
  FROM d, run`;

/** Where the values came from: the same in every entry. */
const sources = (rules: readonly RollUp[]): string =>
  JSON.stringify(
    Object.fromEntries(rules.map(({ target }) => [target, { wave: 1, ruleVersion: TESTER.id, causes: [] }])),
  );

/** What each of ten fields is by hand: its column, the aggregate, and how the ledger holds it. */
const TEN_BY_HAND: readonly (readonly [string, string, string, (sql: string) => string])[] = [
  ['insuredTotal', 'insured_total', `COALESCE(sum(insured_value) FILTER (WHERE stage = 'agreed'), 0)`, money],
  ['loanCount', 'loan_count', `count(*) FILTER (WHERE stage = 'agreed')`, (sql) => `${sql}::text`],
  ['averageFee', 'average_fee', 'round(avg(fee), 2)', money],
  ['lastDueBack', 'last_due_back', `max(due_back) FILTER (WHERE stage = 'agreed')`, (sql) => `${sql}::text`],
  ['lowestFee', 'lowest_fee', 'min(fee)', money],
  [
    ...(['lastTitle', 'last_title'] as const),
    '(array_agg(title ORDER BY due_back DESC NULLS LAST, id DESC) FILTER (WHERE due_back IS NOT NULL))[1]',
    (sql) => sql,
  ],
  ['lenderCount', 'lender_count', 'count(DISTINCT lender)', (sql) => `${sql}::text`],
  ['feeRange', 'fee_range', 'max(fee) - min(fee)', money],
  ['anyDeclined', 'any_declined', `COALESCE(bool_or(stage = 'declined'), false)`, (sql) => sql],
  [
    ...(['worstStage', 'worst_stage'] as const),
    `(ARRAY['requested', 'agreed', 'declined', 'returned'])[max(array_position(ARRAY['requested', 'agreed', 'declined', 'returned'], stage))]`,
    (sql) => sql,
  ],
];
const columns = TEN_BY_HAND.map(([, column]) => column);
const each = (sql: (column: string) => string): string => columns.map(sql).join(', ');

const ALL_TEN_BY_HAND = `
  WITH run AS (INSERT INTO ${SCHEMA}.run (kind) VALUES ('live') RETURNING id),
  g AS (
    SELECT exhibition, ${TEN_BY_HAND.map(([, column, sql]) => `${sql} AS ${column}`).join(', ')}
    FROM ${SCHEMA}.loan WHERE deleted_run IS NULL GROUP BY exhibition
  ),
  d AS (
    SELECT e.id, g.*, ${each((column) => `e.${column} AS o_${column}`)}
    FROM ${SCHEMA}.exhibition e JOIN g ON g.exhibition = e.id
    WHERE (${each((column) => `e.${column}`)}) IS DISTINCT FROM (${each((column) => `g.${column}`)})
  ),
  u AS (
    UPDATE ${SCHEMA}.exhibition e SET ${each((column) => `${column} = d.${column}`)}, changed_run = run.id
    FROM d, run WHERE e.id = d.id
  )
  INSERT INTO ${SCHEMA}.ledger (run, type, record, event, changes, sources)
  SELECT run.id, 'exhibition', d.id, 'changed', jsonb_build_object(${TEN_BY_HAND.map(
    ([field, column, , wire]) =>
      `'${field}', jsonb_build_array(${wire(`d.o_${column}`)}, ${wire(`d.${column}`)})`,
  ).join(', ')}), $1::jsonb FROM d, run`;

/** The five read by hand, where nothing is to be written; `count(g.*)` needs them all, `count(*)` would leave the aggregates out. */
const READ_BY_HAND = BY_HAND.slice(BY_HAND.indexOf('SELECT exhibition'), BY_HAND.indexOf('),\n  d AS'));

interface Together {
  readonly work: string;
  readonly definitions: readonly RollUp[];
  readonly byHand: string;
  readonly columns: readonly string[];
  readonly goal: number | null;
}

/** Rules taken live together, every value new, against one statement that works all of them out. */
async function taken(client: Client, { work, definitions, byHand, columns, goal }: Together) {
  const { by, rules } = await workspaceOf({
    ...{ key: KEY, exhibitions: EXHIBITIONS, loans: LOANS, rules: definitions },
    exhibitionOf: (at) => at % EXHIBITIONS,
  });
  await client.query(`VACUUM ANALYZE ${SCHEMA}.loan`);
  const pause = async () => {
    for (const id of rules) await changeState({ ...by, id, state: 'paused' });
  };
  const fresh = async () => {
    await client.query(
      `UPDATE ${SCHEMA}.exhibition SET ${columns.map((column) => `${column} = NULL`).join(', ')}`,
    );
    await client.query(`VACUUM ANALYZE ${SCHEMA}.exhibition`);
  };
  const figure = await compare({
    ...{ work, must: 1.3, goal, rounds: 5 },
    ours: async () => {
      await fresh();
      const time = await timed(() => goLive(by, rules));
      await pause();
      return time;
    },
    theirs: async () => {
      await fresh();
      return timed(() => client.query(byHand, [sources(definitions)]));
    },
  });
  return { figure, by, rules, pause };
}

export async function benchLive(url: string): Promise<Figure[]> {
  const client = new Client({ connectionString: url });
  await client.connect();
  const five = await taken(client, {
    ...{ work: 'five roll-ups taken live, 1,000,000 children, 10,000 parents', goal: 0.85 },
    ...{ definitions: FIVE, byHand: BY_HAND },
    columns: ['insured_total', 'loan_count', 'average_fee', 'fee_total', 'last_due_back'],
  });
  await goLive(five.by, five.rules);
  await five.pause();
  const unchanged = await compare({
    work: 'nothing changed, the five all again, against the same grouped SELECT',
    ...{ must: 1.5, goal: 1.1, rounds: 7 },
    ours: async () => {
      const time = await timed(() => goLive(five.by, five.rules));
      await five.pause();
      return time;
    },
    theirs: () => timed(() => client.query(`SELECT count(g.*) FROM (${READ_BY_HAND}) g`)),
  });
  const ten = await taken(client, {
    ...{ work: 'ten roll-ups of different kinds taken live, 1,000,000 children, 10,000 parents', goal: 1 },
    ...{ definitions: TEN, byHand: ALL_TEN_BY_HAND, columns },
  });
  await client.end();
  return [five.figure, unchanged, ten.figure];
}

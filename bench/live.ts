import { changeState } from '@/server/actions/write-rules';
import { Client } from 'pg';
import { FIVE, goLive, TESTER, workspaceOf } from './data';
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
const SOURCES = JSON.stringify(
  Object.fromEntries(FIVE.map(({ target }) => [target, { wave: 1, ruleVersion: TESTER.id, causes: [] }])),
);

const RESET = `UPDATE ${SCHEMA}.exhibition SET insured_total = NULL, loan_count = NULL, average_fee = NULL, fee_total = NULL, last_due_back = NULL`;

export async function benchLive(url: string): Promise<Figure[]> {
  const { by, rules } = await workspaceOf({
    ...{
      key: KEY,
      exhibitions: EXHIBITIONS,
      loans: LOANS,
      exhibitionOf: (at) => at % EXHIBITIONS,
      rules: FIVE,
    },
  });
  const client = new Client({ connectionString: url });
  await client.connect();
  await client.query(`VACUUM ANALYZE ${SCHEMA}.loan`);
  const fresh = async () => {
    await client.query(RESET);
    await client.query(`VACUUM ANALYZE ${SCHEMA}.exhibition`);
  };
  const figure = await compare({
    work: 'five roll-ups taken live, 1,000,000 children, 10,000 parents',
    ...{ must: 1.3, goal: 0.85, rounds: 5 },
    ours: async () => {
      await fresh();
      const time = await timed(() => goLive(by, rules));
      for (const id of rules) await changeState({ ...by, id, state: 'paused' });
      return time;
    },
    theirs: async () => {
      await fresh();
      return timed(() => client.query(BY_HAND, [SOURCES]));
    },
  });
  await client.end();
  return [figure];
}

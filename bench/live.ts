import { changeState } from '@/server/actions/rules/change-state';
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

/** Where the values came from: the same in every entry. */
const sources = (rules: readonly RollUp[]): string =>
  JSON.stringify(
    Object.fromEntries(rules.map(({ target }) => [target, { wave: 1, ruleVersion: TESTER.id, causes: [] }])),
  );

/** A field by hand: its key and column, the aggregate, and how the ledger holds it. */
type ByHand = readonly [field: string, column: string, aggregate: string, wire: (sql: string) => string];

const asText = (sql: string) => `${sql}::text`;
const asItIs = (sql: string) => sql;
const IN_BOTH: readonly ByHand[] = [
  ['insuredTotal', 'insured_total', `COALESCE(sum(insured_value) FILTER (WHERE stage = 'agreed'), 0)`, money],
  ['loanCount', 'loan_count', `count(*) FILTER (WHERE stage = 'agreed')`, asText],
  ['averageFee', 'average_fee', 'round(avg(fee), 2)', money],
  ['lastDueBack', 'last_due_back', `max(due_back) FILTER (WHERE stage = 'agreed')`, asText],
];
const FIVE_BY_HAND: readonly ByHand[] = [
  ...IN_BOTH,
  ['feeTotal', 'fee_total', 'COALESCE(sum(fee), 0)', money],
];
const STAGES = `ARRAY['requested', 'agreed', 'declined', 'returned']`;
const LAST_TITLE =
  '(array_agg(title ORDER BY due_back DESC NULLS LAST, id DESC) FILTER (WHERE due_back IS NOT NULL))[1]';
const TEN_BY_HAND: readonly ByHand[] = [
  ...IN_BOTH,
  ['lowestFee', 'lowest_fee', 'min(fee)', money],
  ['lastTitle', 'last_title', LAST_TITLE, asItIs],
  ['lenderCount', 'lender_count', 'count(DISTINCT lender)', asText],
  ['feeRange', 'fee_range', 'max(fee) - min(fee)', money],
  ['anyDeclined', 'any_declined', `COALESCE(bool_or(stage = 'declined'), false)`, asItIs],
  ['worstStage', 'worst_stage', `(${STAGES})[max(array_position(${STAGES}, stage))]`, asItIs],
];

/** One grouped pass over all loans. */
const groupedByHand = (fields: readonly ByHand[]): string => `
    SELECT exhibition, ${fields.map(([, column, aggregate]) => `${aggregate} AS ${column}`).join(', ')}
    FROM ${SCHEMA}.loan WHERE deleted_run IS NULL GROUP BY exhibition`;

/** That pass, the records that differ, and the same ledger. */
function writtenByHand(fields: readonly ByHand[]): string {
  const each = (sql: (column: string) => string) => fields.map(([, column]) => sql(column)).join(', ');
  const changes = fields.map(
    ([field, column, , wire]) =>
      `'${field}', jsonb_build_array(${wire(`d.o_${column}`)}, ${wire(`d.${column}`)})`,
  );
  return `
  WITH run AS (INSERT INTO ${SCHEMA}._run (kind) VALUES ('live') RETURNING id),
  g AS (${groupedByHand(fields)}),
  d AS (
    SELECT e.id, g.*, ${each((column) => `e.${column} AS o_${column}`)}
    FROM ${SCHEMA}.exhibition e JOIN g ON g.exhibition = e.id
    WHERE (${each((column) => `e.${column}`)}) IS DISTINCT FROM (${each((column) => `g.${column}`)})
  ),
  u AS (
    UPDATE ${SCHEMA}.exhibition e SET ${each((column) => `${column} = d.${column}`)}, changed_run = run.id
    FROM d, run WHERE e.id = d.id
  )
  INSERT INTO ${SCHEMA}._ledger (run, type, record, event, changes, sources)
  SELECT run.id, 'exhibition', d.id, 'changed', jsonb_build_object(${changes.join(', ')}), $1::jsonb FROM d, run`;
}

interface Together {
  readonly work: string;
  readonly definitions: readonly RollUp[];
  readonly byHand: readonly ByHand[];
  readonly must: number;
  readonly goal: number;
}

/** Rules taken live together, every value new, against one statement that works all of them out. */
async function taken(client: Client, { work, definitions, byHand, must, goal }: Together) {
  const { by, rules } = await workspaceOf({
    ...{ key: KEY, exhibitions: EXHIBITIONS, loans: LOANS, rules: definitions },
    exhibitionOf: (at) => at % EXHIBITIONS,
  });
  await client.query(`VACUUM ANALYZE ${SCHEMA}.loan`);
  const pause = async () => {
    for (const id of rules) await changeState({ ...by, id, state: 'paused' });
  };
  const fresh = async () => {
    const empty = byHand.map(([, column]) => `${column} = NULL`);
    await client.query(`UPDATE ${SCHEMA}.exhibition SET ${empty.join(', ')}`);
    await client.query(`VACUUM ANALYZE ${SCHEMA}.exhibition`);
  };
  const figure = await compare({
    ...{ work, must, goal, rounds: 5 },
    ours: async () => {
      await fresh();
      const time = await timed(() => goLive(by, rules));
      await pause();
      return time;
    },
    theirs: async () => {
      await fresh();
      return timed(() => client.query(writtenByHand(byHand), [sources(definitions)]));
    },
  });
  return { figure, by, rules, pause };
}

export async function benchLive(url: string): Promise<Figure[]> {
  const client = new Client({ connectionString: url });
  await client.connect();
  const five = await taken(client, {
    ...{ work: 'five roll-ups taken live, 1,000,000 children, 10,000 parents', must: 1, goal: 0.85 },
    ...{ definitions: FIVE, byHand: FIVE_BY_HAND },
  });
  await goLive(five.by, five.rules);
  await five.pause();
  const unchanged = await compare({
    work: 'nothing changed, the five all again, against the same grouped SELECT',
    ...{ must: 1.2, goal: 1.05, rounds: 7 },
    ours: async () => {
      const time = await timed(() => goLive(five.by, five.rules));
      await five.pause();
      return time;
    },
    // `count(g.*)` needs all of them; `count(*)` would leave the aggregates out.
    theirs: () => timed(() => client.query(`SELECT count(g.*) FROM (${groupedByHand(FIVE_BY_HAND)}) g`)),
  });
  const ten = await taken(client, {
    ...{
      work: 'ten roll-ups of different kinds taken live, 1,000,000 children, 10,000 parents',
      must: 1.3,
      goal: 1,
    },
    ...{ definitions: TEN, byHand: TEN_BY_HAND },
  });
  await client.end();
  return [five.figure, unchanged, ten.figure];
}

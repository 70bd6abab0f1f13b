import type { RollUp } from '@/core/rules';
import { Decimal } from '@/core/values';
import { makeWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';
import { saveEdits } from '@/server/actions/records/save-edits';
import { loadRows, type NewRow } from '@/server/store/schema/load-rows';
import { reloadWorkspace } from '@/server/store/session/workspace';
import { Client } from 'pg';
import { goLive, MODEL, TESTER } from './data';
import { compare, type Figure, timed } from './measure';

const KEY = 'bench-tree';
const SCHEMA = 'w_bench_tree';
const CRATES = 100_000;
/** Crates in each crate: eight levels of them, and a few on a ninth. */
const WITHIN = 4;

const crateId = (at: number): string => `00000000-0000-7000-c000-${at.toString(16).padStart(12, '0')}`;

const COVER: RollUp = {
  ...{ kind: 'rollUp', type: 'crate', target: 'cover', aggregate: 'sum' },
  route: [{ direction: 'down', type: 'crate', link: 'inside' }],
  ...{ value: { kind: 'field', route: [], field: 'cover' }, condition: null },
  own: { adds: { kind: 'field', route: [], field: 'ownCover' } },
  ...{ whenNone: { amount: '0.00', currency: 'GBP' }, rounding: null, pace: 'withTheSave' },
};

/** The mean of all that lies beneath, at any depth. */
const MEAN: RollUp = {
  ...{ kind: 'rollUp', type: 'crate', target: 'cover', aggregate: 'average' },
  route: [{ direction: 'down', type: 'crate', link: 'inside', isAllTheWay: true }],
  ...{ value: { kind: 'field', route: [], field: 'ownCover' }, condition: null },
  ...{ whenNone: null, rounding: null, pace: 'withTheSave' },
};

/** The same by hand, with the same ledger: pairs of each crate and all beneath it, brought together. */
const MEAN_BY_HAND = `
  WITH RECURSIVE beneath AS (
    SELECT inside AS top, id FROM ${SCHEMA}.crate WHERE inside IS NOT NULL AND deleted_run IS NULL
    UNION ALL SELECT b.top, k.id FROM beneath b JOIN ${SCHEMA}.crate k ON k.inside = b.id WHERE k.deleted_run IS NULL
  ), run AS (INSERT INTO ${SCHEMA}._run (kind) VALUES ('live') RETURNING id),
  found AS (
    SELECT b.top AS id, round(avg(c.own_cover), 2) AS mean FROM beneath b JOIN ${SCHEMA}.crate c ON c.id = b.id GROUP BY b.top
  ), u AS (UPDATE ${SCHEMA}.crate c SET cover = f.mean, changed_run = run.id FROM found f, run WHERE c.id = f.id)
  INSERT INTO ${SCHEMA}._ledger (run, type, record, event, changes, sources)
  SELECT run.id, 'crate', f.id, 'changed', jsonb_build_object('cover', jsonb_build_array(NULL,
    jsonb_build_object('amount', f.mean::text, 'currency', 'GBP'))), $1::jsonb
  FROM found f, run`;

function* crates(): Iterable<NewRow> {
  for (let at = 0; at < CRATES; at += 1)
    yield {
      id: crateId(at),
      values: {
        label: `Crate ${at}`,
        inside: at === 0 ? null : crateId(Math.floor((at - 1) / WITHIN)),
        ownCover: { amount: new Decimal(at % 991).plus(0.25), currency: 'GBP' },
      },
    };
}

/** As many rows written once, with the same ledger: what any way of keeping the totals has to do at least. */
const PLAIN = `
  WITH run AS (INSERT INTO ${SCHEMA}._run (kind) VALUES ('live') RETURNING id),
  u AS (UPDATE ${SCHEMA}.crate SET cover = own_cover, changed_run = run.id FROM run)
  INSERT INTO ${SCHEMA}._ledger (run, type, record, event, changes, sources)
  SELECT run.id, 'crate', c.id, 'changed', jsonb_build_object('cover', jsonb_build_array(NULL,
    jsonb_build_object('amount', c.own_cover::text, 'currency', 'GBP'))), $1::jsonb
  FROM ${SCHEMA}.crate c, run`;
const SOURCES = JSON.stringify({ cover: { wave: 1, ruleVersion: TESTER.id, causes: [] } });

/** Totals of a hierarchy of 100,000 records. */
export async function benchTree(url: string): Promise<Figure[]> {
  await removeWorkspace(KEY);
  await makeWorkspace({
    ...{ key: KEY, name: KEY, timeZone: 'Europe/London', settledDay: '2026-11-01' },
    ...{ model: MODEL, people: [TESTER] },
  });
  const rows = { [Symbol.iterator]: () => crates()[Symbol.iterator]() };
  await loadRows(await reloadWorkspace(KEY), new Map([['crate', rows]]), TESTER.id);
  const by = { workspace: KEY, person: TESTER.id };
  const rule = await createRule({ ...by, definition: COVER });
  const client = new Client({ connectionString: url });
  await client.connect();
  const fresh = async (sql: string) => {
    await client.query(sql);
    await client.query(`VACUUM ANALYZE ${SCHEMA}.crate`);
  };
  const EMPTY = `UPDATE ${SCHEMA}.crate SET cover = NULL`;
  const pause = () => changeState({ ...by, id: rule, state: 'paused' });
  const all = await compare({
    work: 'tree totals, 100,000 records, 8 levels, all again',
    ...{ must: 2.5, goal: 1.8, rounds: 5 },
    ours: async () => {
      await fresh(EMPTY);
      const time = await timed(() => goLive(by, [rule]));
      await pause();
      return time;
    },
    theirs: async () => {
      await fresh(EMPTY);
      return timed(() => client.query(PLAIN, [SOURCES]));
    },
  });
  await goLive(by, [rule]);
  await pause();
  await fresh('SELECT 1');
  const unchanged = await compare({
    work: 'the same where nothing changes, against one statement that reads and compares them',
    ...{ must: 1.2, goal: 1.1, rounds: 9 },
    ours: async () => {
      const time = await timed(() => goLive(by, [rule]));
      await pause();
      return time;
    },
    theirs: () =>
      timed(() =>
        client.query(
          `SELECT count(*) FROM ${SCHEMA}.crate p LEFT JOIN (
            SELECT inside, sum(cover) AS beneath FROM ${SCHEMA}.crate WHERE deleted_run IS NULL GROUP BY inside
          ) g ON g.inside = p.id
          WHERE p.deleted_run IS NULL AND p.cover IS DISTINCT FROM p.own_cover + COALESCE(g.beneath, 0)`,
        ),
      ),
  });
  await goLive(by, [rule]);
  const leaf = CRATES - 1;
  const edit = (at: number, amount: number) =>
    saveEdits({
      ...by,
      edits: [
        {
          kind: 'edit',
          type: 'crate',
          id: crateId(at),
          values: { ownCover: { amount: `${amount}.25`, currency: 'GBP' } },
        },
      ],
    });
  const one = await compare({
    work: 'one edit of a leaf under eight others, against one of the topmost',
    ...{ must: null, goal: null, rounds: 40, warmUp: 5, note: 'eight more records are written' },
    ours: (round) => timed(() => edit(leaf, round + 1)),
    theirs: (round) => timed(() => edit(0, round + 1)),
  });
  await pause();
  const mean = await createRule({ ...by, definition: MEAN });
  const deep = await compare({
    work: 'an average over any depth, the same 100,000 records',
    ...{ must: 2, goal: 1.3, rounds: 5 },
    ours: async () => {
      await fresh(EMPTY);
      const time = await timed(() => goLive(by, [mean]));
      await changeState({ ...by, id: mean, state: 'paused' });
      return time;
    },
    theirs: async () => {
      await fresh(EMPTY);
      return timed(() => client.query(MEAN_BY_HAND, [SOURCES]));
    },
  });
  await goLive(by, [mean]);
  await fresh('SELECT 1');
  // A leaf has all of the tree above it: what lies beneath the topmost is gone over again.
  const deepEdit = await compare({
    work: 'one edit of a leaf under eight others with it, against one of the topmost',
    ...{ must: null, goal: null, rounds: 10, warmUp: 2, note: 'all that lies beneath the topmost is walked' },
    ours: (round) => timed(() => edit(leaf, round + 100)),
    theirs: (round) => timed(() => edit(0, round + 100)),
  });
  await client.end();
  return [all, unchanged, one, deep, deepEdit];
}

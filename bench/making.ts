import type { Create } from '@/core/rules';
import { makeAsked } from '@/server/actions/records/make-asked';
import { database } from '@/server/database/connection';
import { run } from '@/server/store/sql/sql';
import { loadWorkspace } from '@/server/store/session/workspace';
import { goLive, TESTER, workspaceOf } from './data';
import { compare, type Figure, timed } from './measure';

const [OURS, THEIRS] = ['bench-making', 'bench-making-hand'];
const SCALE = { exhibitions: 100, loans: 10_000, exhibitionOf: (at: number) => Math.floor(at / 100) };

/** An artefact for every loan, each time it is asked for, with its title, its link and a number of its own. */
const ARTEFACT: Create = {
  ...{ kind: 'create', type: 'loan', makes: 'artefact', condition: null, each: 'everyTime' },
  ...{ pace: { kind: 'onRequest', field: null }, back: 'loan', forward: null },
  assignments: [
    {
      target: 'title',
      value: { kind: 'expression', expression: { kind: 'field', route: [], field: 'title' } },
    },
  ],
  ...{ making: 'directly', following: 'not', returning: 'not', afterwards: 'left' },
};

/** The same by one statement: the numbers are taken, the records made, and what they were made for is noted. */
async function byHand(rule: string): Promise<number> {
  const { schema } = await loadWorkspace(THEIRS);
  const s = `"${schema}"`;
  const text = `WITH run AS (
      INSERT INTO ${s}._run (kind, person, note) VALUES ('pace', $1, '') RETURNING id
    ), wanted AS MATERIALIZED (
      SELECT id, title, gen_random_uuid() AS made, row_number() OVER (ORDER BY id) - 1 AS at FROM ${s}.loan WHERE deleted_run IS NULL
    ), taken AS (
      UPDATE ${s}._serial SET next = next + (SELECT count(*) FROM wanted) WHERE type = 'artefact' AND field = 'number'
      RETURNING next - (SELECT count(*) FROM wanted) AS first
    ), made AS (
      INSERT INTO ${s}.artefact (id, title, loan, number, created_run, changed_run)
        SELECT w.made, w.title, w.id, taken.first + w.at, run.id, run.id FROM wanted w, taken, run RETURNING 1
    ), noted AS (
      INSERT INTO ${s}._made (rule, version, source_type, source, made, is_once, wave, run)
        SELECT r.id, r.live_version, 'loan', w.id, w.made, false, 1, run.id FROM wanted w, run, ${s}._rule r WHERE r.id = $2
    ) SELECT count(*) FROM made`;
  return timed(() => database().transaction((transaction) => run(transaction, text, [TESTER.id, rule])));
}

/** 10,000 records made in one run, with their links and their numbers, against one statement by hand. */
export async function benchMaking(): Promise<Figure[]> {
  const { by, rules } = await workspaceOf({ key: OURS, ...SCALE, rules: [ARTEFACT] });
  await goLive(by, rules);
  const theirs = await workspaceOf({ key: THEIRS, ...SCALE, rules: [ARTEFACT] });
  await goLive(theirs.by, theirs.rules);
  await database().query('ANALYZE'); // as PostgreSQL does by itself soon after
  return [
    await compare({
      work: '10,000 records made in one run, with links and numbers, against one statement by hand',
      ...{ must: 1.5, goal: 1.2, rounds: 4, warmUp: 1 },
      ours: () => timed(() => makeAsked({ ...by, rules })),
      theirs: () => byHand(theirs.rules[0]!),
    }),
  ];
}

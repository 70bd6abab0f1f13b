import type { Cascade } from '@/core/rules';
import { saveEdits } from '@/server/actions/save-edits';
import { database } from '@/server/database/connection';
import { run } from '@/server/store/sql';
import { loadWorkspace } from '@/server/store/workspace';
import { exhibitionId, goLive, LARGE_AT, ONE_LARGE, TESTER, workspaceOf } from './data';
import { compare, type Figure, timed } from './measure';

const [OURS, THEIRS] = ['bench-cascade', 'bench-cascade-hand'];

/** An exhibition's climate to all its loans, when it changes. */
const CLIMATE: Cascade = {
  ...{ kind: 'cascade', type: 'exhibition', condition: null, pace: 'withTheSave' },
  route: [{ direction: 'down', type: 'loan', link: 'exhibition' }],
  moment: { kind: 'onChange', where: null, tests: [{ kind: 'changed', field: 'climate' }] },
  assignments: [
    {
      target: 'climate',
      value: { kind: 'expression', expression: { kind: 'field', route: [], field: 'climate' } },
    },
  ],
};

const ours = (exhibition: number, climate: string) =>
  timed(() =>
    saveEdits({
      ...{ workspace: OURS, person: TESTER.id },
      edits: [{ kind: 'edit', type: 'exhibition', id: exhibitionId(exhibition), values: { climate } }],
    }),
  );

/** The same by one statement, with the same ledger. */
async function byHand(exhibition: number, climate: string): Promise<number> {
  const { schema } = await loadWorkspace(THEIRS);
  const s = `"${schema}"`;
  const text = `WITH run AS (
      INSERT INTO ${s}.run (kind, person, note) VALUES ('save', $3, '') RETURNING id
    ), parent AS (
      UPDATE ${s}.exhibition t SET climate = $2, version = t.version + 1, changed_run = run.id
        FROM run, (SELECT id, climate FROM ${s}.exhibition WHERE id = $1 FOR NO KEY UPDATE) was
        WHERE t.id = was.id RETURNING t.id, was.climate AS before
    ), children AS (
      UPDATE ${s}.loan t SET climate = $2, changed_run = run.id
        FROM run, (SELECT id, climate FROM ${s}.loan WHERE exhibition = $1 AND deleted_run IS NULL AND climate IS DISTINCT FROM $2 FOR NO KEY UPDATE) was
        WHERE t.id = was.id RETURNING t.id, was.climate AS before
    ), logged AS (
      INSERT INTO ${s}.ledger (run, type, record, event, changes, sources)
        SELECT run.id, 'exhibition', p.id, 'changed', jsonb_build_object('climate', jsonb_build_array(p.before, $2::text)), '{}' FROM parent p, run
        UNION ALL SELECT run.id, 'loan', c.id, 'changed', jsonb_build_object('climate', jsonb_build_array(c.before, $2::text)),
          jsonb_build_object('climate', jsonb_build_object('wave', 1, 'ruleVersion', $3::text, 'causes', jsonb_build_array(jsonb_build_object('type', 'exhibition', 'id', $1::text, 'field', 'climate')))) FROM children c, run
    ) SELECT count(*) FROM children`;
  return timed(() =>
    database().transaction((transaction) =>
      run(transaction, text, [exhibitionId(exhibition), climate, TESTER.id]),
    ),
  );
}

/** A value handed on to 100 and to 10,000 children, ledger included, against one statement by hand. */
export async function benchCascade(): Promise<Figure[]> {
  const { by, rules } = await workspaceOf({ key: OURS, ...ONE_LARGE, rules: [CLIMATE] });
  await goLive(by, rules);
  await workspaceOf({ key: THEIRS, ...ONE_LARGE, rules: [] });
  const few = await compare({
    work: 'a value handed on to 100 children, against one statement by hand',
    ...{ must: 2, goal: 1.5, rounds: 40, warmUp: 5 },
    ours: (round) => ours(0, `Climate ${round}`),
    theirs: (round) => byHand(0, `Climate ${round}`),
  });
  const many = await compare({
    work: 'the same to 10,000 children',
    ...{ must: 1.3, goal: 1.1, rounds: 8, warmUp: 1 },
    ours: (round) => ours(LARGE_AT, `Climate ${round}`),
    theirs: (round) => byHand(LARGE_AT, `Climate ${round}`),
  });
  return [few, many];
}

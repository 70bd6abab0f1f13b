import type { Cascade } from '@/core/rules';
import { saveEdits } from '@/server/actions/records/save-edits';
import { getRun } from '@/server/queries/ledger/runs';
import { database } from '@/server/database/connection';
import { run } from '@/server/store/sql/sql';
import { countWaiting } from '@/server/store/write/run-counts';
import { loadWorkspace } from '@/server/store/session/workspace';
import { exhibitionId, goLive, LARGE_AT, ONE_LARGE, TESTER, workspaceOf } from './data';
import { compare, type Figure, timed, within } from './measure';

const [OURS, THEIRS] = ['bench-cascade', 'bench-cascade-hand'];

const TO_LOANS: Cascade['route'] = [{ direction: 'down', type: 'loan', link: 'exhibition' }];
const INSTRUCTION = 'By courier.';

/** An exhibition's climate to all its loans, when it changes. */
const CLIMATE: Cascade = {
  ...{ kind: 'cascade', type: 'exhibition', condition: null, pace: 'withTheSave', route: TO_LOANS },
  moment: { kind: 'onChange', where: null, tests: [{ kind: 'changed', field: 'climate' }] },
  assignments: [
    {
      target: 'climate',
      value: { kind: 'expression', expression: { kind: 'field', route: [], field: 'climate' } },
    },
  ],
};

/** The same instruction each time when its last day changes, so that from the second time on nothing is to change. */
const CLOSES: Cascade = {
  ...CLIMATE,
  moment: { kind: 'onChange', where: null, tests: [{ kind: 'changed', field: 'closes' }] },
  assignments: [
    {
      target: 'courierInstruction',
      value: { kind: 'expression', expression: { kind: 'constant', value: INSTRUCTION } },
    },
  ],
};

interface Handed {
  readonly workspace?: string;
  readonly exhibition: number;
  /** What is entered on the exhibition. */
  readonly field: 'climate' | 'closes';
  readonly value: string;
}

const ours = ({ workspace = OURS, exhibition, field, value }: Handed) =>
  timed(() =>
    saveEdits({
      ...{ workspace, person: TESTER.id },
      edits: [{ kind: 'edit', type: 'exhibition', id: exhibitionId(exhibition), values: { [field]: value } }],
    }),
  );

/** The same by one statement, with the same ledger. */
async function byHand({ workspace = THEIRS, exhibition, field, value }: Handed): Promise<number> {
  const { schema } = await loadWorkspace(workspace);
  const s = `"${schema}"`;
  const target = { climate: 'climate', closes: 'courier_instruction' }[field];
  const key = { climate: 'climate', closes: 'courierInstruction' }[field];
  const entered = { climate: '$2::text', closes: '$2::text::date' }[field];
  const text = `WITH run AS (
      INSERT INTO ${s}._run (kind, person, note) VALUES ('save', $3, '') RETURNING id
    ), parent AS (
      UPDATE ${s}.exhibition t SET ${field} = ${entered}, version = t.version + 1, changed_run = run.id
        FROM run, (SELECT id, ${field} FROM ${s}.exhibition WHERE id = $1 FOR NO KEY UPDATE) was
        WHERE t.id = was.id RETURNING t.id, was.${field} AS before
    ), children AS (
      UPDATE ${s}.loan t SET ${target} = $4, changed_run = run.id
        FROM run, (SELECT id, ${target} FROM ${s}.loan WHERE exhibition = $1 AND deleted_run IS NULL AND ${target} IS DISTINCT FROM $4 FOR NO KEY UPDATE) was
        WHERE t.id = was.id RETURNING t.id, was.${target} AS before
    ), logged AS (
      INSERT INTO ${s}._ledger (run, type, record, event, changes, sources)
        SELECT run.id, 'exhibition', p.id, 'changed', jsonb_build_object('${field}', jsonb_build_array(p.before, $2::text)), '{}' FROM parent p, run
        UNION ALL SELECT run.id, 'loan', c.id, 'changed', jsonb_build_object('${key}', jsonb_build_array(c.before, $4::text)),
          jsonb_build_object('${key}', jsonb_build_object('wave', 1, 'ruleVersion', $3::text, 'causes', jsonb_build_array(jsonb_build_object('type', 'exhibition', 'id', $1::text, 'field', '${field}')))) FROM children c, run
    ) SELECT count(*) FROM children`;
  const handed = field === 'climate' ? value : INSTRUCTION;
  return timed(() =>
    database().transaction((transaction) =>
      run(transaction, text, [exhibitionId(exhibition), value, TESTER.id, handed]),
    ),
  );
}

const climate = (exhibition: number) => (round: number) =>
  ({ exhibition, field: 'climate', value: `Climate ${round}` }) as const;
const closes = (round: number) =>
  ({
    exhibition: LARGE_AT,
    field: 'closes',
    value: `2027-01-${String(round + 1).padStart(2, '0')}`,
  }) as const;

/** One exhibition of a quarter of a million loans. */
const HUGE = { exhibitions: 1, loans: 250_000, exhibitionOf: () => 0 };
const [OURS_HUGE, THEIRS_HUGE] = ['bench-cascade-huge', 'bench-cascade-huge-hand'];

/** Milliseconds in which a page of the ledger of so large a run must be there, and the whole of it counted. */
const [PAGE_LIMIT, COUNT_LIMIT] = [50, 300];

/** What so large a run did: a page of it, and how many records of each rule. */
async function benchLedger(): Promise<Figure[]> {
  const workspace = await loadWorkspace(OURS_HUGE);
  const edit = { kind: 'edit', type: 'exhibition', id: exhibitionId(0), values: { climate: 'Dry' } } as const;
  const { run: id } = await saveEdits({ workspace: OURS_HUGE, person: TESTER.id, edits: [edit] });
  if (id === null) throw new Error('Nothing was saved.');
  // As the application does on its own, moments after such a save.
  await database().transaction((transaction) => countWaiting(transaction, workspace));
  const { next } = await getRun(workspace, id);
  return [
    await within('a page of the ledger of 300 of a run that reached 250,000', PAGE_LIMIT, () =>
      getRun(workspace, id, next),
    ),
    await within('the same run counted exactly, with its first page', COUNT_LIMIT, () =>
      getRun(workspace, id),
    ),
  ];
}

async function benchHuge(): Promise<Figure> {
  const { by, rules } = await workspaceOf({ key: OURS_HUGE, ...HUGE, rules: [CLIMATE] });
  await goLive(by, rules);
  await workspaceOf({ key: THEIRS_HUGE, ...HUGE, rules: [] });
  await database().query('ANALYZE');
  return compare({
    work: 'the same to 250,000 children',
    ...{ must: 1.3, goal: 1.1, rounds: 3, warmUp: 1 },
    ours: (round) => ours({ workspace: OURS_HUGE, ...climate(0)(round) }),
    theirs: (round) => byHand({ workspace: THEIRS_HUGE, ...climate(0)(round) }),
  });
}

/** A value cascaded to 100, to 10,000 and to 250,000 children, ledger included, and one that all of them have, against one statement by hand. */
export async function benchCascade(): Promise<Figure[]> {
  const { by, rules } = await workspaceOf({ key: OURS, ...ONE_LARGE, rules: [CLIMATE, CLOSES] });
  await goLive(by, rules);
  await workspaceOf({ key: THEIRS, ...ONE_LARGE, rules: [] });
  await database().query('ANALYZE'); // as PostgreSQL does by itself soon after
  const few = await compare({
    work: 'a value handed on to 100 children, against one statement by hand',
    ...{ must: 1.3, goal: 1.1, rounds: 60, warmUp: 60 },
    ours: (round) => ours(climate(0)(round)),
    theirs: (round) => byHand(climate(0)(round)),
  });
  const many = await compare({
    work: 'the same to 10,000 children',
    ...{ must: 1.1, goal: 1, rounds: 8, warmUp: 1 },
    ours: (round) => ours(climate(LARGE_AT)(round)),
    theirs: (round) => byHand(climate(LARGE_AT)(round)),
  });
  const alike = await compare({
    work: 'nothing to change at 10,000 children',
    ...{ must: 1.2, goal: 1.05, rounds: 24, warmUp: 4 },
    ours: (round) => ours(closes(round)),
    theirs: (round) => byHand(closes(round)),
  });
  return [few, many, await benchHuge(), ...(await benchLedger()), alike];
}

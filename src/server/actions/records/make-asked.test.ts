import type { Row } from '@/core/engine';
import type { Cascade, Create, RuleDefinition } from '@/core/rules';
import { decimal, rollUp, rowOf, uuid } from '@/core/testing/galleries';
import { inspections, LINE, takes } from '@/core/testing/inspections';
import { numbered, RuleDesk } from '@/core/testing/rule-desk';
import type { Value } from '@/core/values';
import { disconnect } from '@/server/database/connection';
import { getHistory } from '@/server/queries/ledger/history';
import { listProposals } from '@/server/queries/today/proposals';
import { flawsIn } from '@/server/testing/flaws';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { makeAsked } from './make-asked';
import { previewLive } from '@/server/actions/rules/preview-live';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';

const model = inspections();
const MANY = 1_250;
const idOf = (at: number) => uuid(String(at + 1));
const SORTS = ['painting', 'textile', 'tool', 'paper', null];

/** Artefacts of every sort: some without what a line needs, some with what another has. */
const ROWS = Array.from({ length: MANY }, (_, at) =>
  rowOf(model, 'artefact', idOf(at), {
    ...{ title: `Artefact ${at}`, number: decimal(at + 1), sort: SORTS[at % 5]!, treatments: decimal(0) },
    ...{ maker: at % 7 === 0 ? null : `Maker ${at % 600}` },
    worth: at % 11 === 0 ? null : decimal((at - 40) * 1_234),
  }),
);

/** Lines with texts of many kinds, a policy that must be unlike others', and a link either way. */
const LINES: Create = {
  ...LINE,
  pace: { kind: 'onRequest', field: null },
  assignments: [
    { target: 'title', value: { kind: 'text', text: '{{{number}}} {title}: {worth}, {sort}' } },
    takes('policy', 'maker'),
    takes('worth', 'worth'),
    {
      target: 'maker',
      value: {
        ...{ kind: 'map', field: 'sort', otherwise: { kind: 'asItIs' } },
        rows: [{ from: 'painting', to: 'Painter' }],
      },
    },
  ],
};
const COUNT: RuleDefinition = rollUp({
  ...{ type: 'artefact', target: 'treatments', aggregate: 'count', value: null, whenNone: '0' },
  route: [{ direction: 'down', type: 'line', link: 'artefact' }],
});
/** What a line starts with; what was assigned to it stands. */
const STARTS: Cascade = {
  ...{ kind: 'cascade', type: 'artefact', condition: null, pace: 'withTheSave', moment: 'atCreation' },
  route: [{ direction: 'down', type: 'line', link: 'artefact' }],
  assignments: [takes('artefactNumber', 'title'), takes('maker', 'title')],
};

let workspace: TestWorkspace;
const begin = async (...rules: RuleDefinition[]) => {
  workspace = await testWorkspace({ model, rows: ROWS, rules: numbered(rules) });
};
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const ofType = (rows: readonly Row[], type: string) =>
  rows.filter((row) => row.type === type && !row.deleted);

/** Lines by the artefact that they are for, and what the artefact says of its line, without the numbers that were given. */
function picture(rows: readonly Row[]): Map<string, Record<string, Value>> {
  const lines = new Map(ofType(rows, 'line').map((row) => [row.id, row.values]));
  return new Map(
    ofType(rows, 'artefact').map(({ id, values: { line, lineNumber, treatments } }) => {
      const made = typeof line === 'string' ? lines.get(line)! : null;
      if (made) expect(lineNumber).toBe(`N-${String(made.number).padStart(3, '0')}`);
      const { number: _given, ...values } = made ?? {};
      return [id, { ...values, treatments: String(treatments), worth: String(made?.worth ?? '') }];
    }),
  );
}

test('what is made for many as a set is what the engine makes one by one, with all that follows', async () => {
  const rules = [LINES, COUNT, STARTS];
  await begin(...rules);
  const [rule] = workspace.rules;
  const asked = await makeAsked({ ...by(), rules: [rule!] });

  const desk = new RuleDesk(model, numbered(rules), ROWS);
  desk.run([], { asked: new Map([[numbered(rules)[0]!.id, ROWS.map(({ id }) => id)]]) });
  const expected = [...ROWS.map(({ type, id }) => desk.store.row(type, id)!), ...desk.store.rows('line')];
  const rows = await workspace.rows();
  expect(picture(rows)).toEqual(picture(expected));
  expect(asked).toMatchObject({
    made: ofType(expected, 'line').length,
    proposed: desk.ripple!.proposals.filter(({ isDone }) => !isDone).length,
  });
  expect(asked.made).toBeGreaterThan(200);
  expect(asked.proposed).toBeGreaterThan(200);

  const loaded = await workspace.load();
  expect((await listProposals(loaded, false)).open).toBe(asked.proposed);
  const numbers = ofType(rows, 'line').map(({ values }) => Number(String(values.number)));
  expect(numbers.sort((a, b) => a - b)).toEqual(numbers.map((_, at) => at + 1));
  const [first] = ofType(rows, 'line').sort((a, b) => (a.id < b.id ? -1 : 1));
  expect(first!.values).toMatchObject({ number: decimal(1), artefact: idOf(0) });
  expect((await getHistory(loaded, { type: 'line', id: first!.id })).entries.at(-1)).toMatchObject({
    ...{ event: 'created', rule: { id: rule } },
    causes: ['Artefact Artefact 0'],
  });
  expect((await getHistory(loaded, { type: 'artefact', id: idOf(0) })).entries[0]!.changes).toEqual(
    expect.arrayContaining([
      expect.objectContaining({ field: 'lineNumber', rule: expect.objectContaining({ id: rule }) as object }),
    ]),
  );
  expect(await flawsIn(workspace)).toEqual([]);
  expect(await makeAsked({ ...by(), rules: [rule!] })).toMatchObject({ made: 0 });
});

test('before it goes live its numbers are told, and what can’t be told is refused with nothing saved', async () => {
  await begin();
  const each: Create = { ...LINES, condition: null, each: 'everyTime', forward: null, gives: [] };
  const ways = { making: 'directly', following: 'not', returning: 'not' } as const;
  const plain: Create = { ...each, ...ways, assignments: [takes('title', 'title')] };
  const id = await createRule({ ...by(), name: 'Each', definition: { ...plain, pace: 'withTheSave' } });
  expect((await previewLive(workspace.key, id)).makes).toMatchObject({
    ...{ made: MANY, proposed: 0, plural: 'Insurance lines' },
    titles: expect.arrayContaining(['Artefact 0']) as string[],
  });
  expect(await changeState({ ...by(), id, state: 'live', actsOnMatching: true })).toMatchObject({
    made: MANY,
  });
  expect(ofType(await workspace.rows(), 'line')).toHaveLength(MANY);

  const over: Create = {
    ...plain,
    assignments: [
      takes('title', 'title'),
      {
        target: 'worth',
        value: {
          kind: 'expression',
          expression: {
            ...{ kind: 'arithmetic', operator: '/', left: { kind: 'field', route: [], field: 'treatments' } },
            right: { kind: 'field', route: [], field: 'worth' },
          },
        },
      },
    ],
  };
  const zero = await createRule({ ...by(), name: 'Divides', definition: over });
  await changeState({ ...by(), id: zero, state: 'live' });
  const refused = await refusal(makeAsked({ ...by(), rules: [zero] }));
  expect(refused.message).toContain('“Divides” can’t tell what to do on “Artefact 40”');
  expect(ofType(await workspace.rows(), 'line')).toHaveLength(MANY);
});

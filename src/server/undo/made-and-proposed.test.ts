import type { Row, WireEdit } from '@/core/engine';
import type { RuleDefinition } from '@/core/rules';
import { rollUp, rowOf, uuid } from '@/core/testing/galleries';
import { inspections, LINE, TREATMENT } from '@/core/testing/inspections';
import { numbered } from '@/core/testing/rule-desk';
import { CASCADES, touring } from '@/core/testing/touring';
import { Decimal } from '@/core/values';
import { decideProposals } from '@/server/actions/records/decide-proposals';
import { type Decision } from '@/server/forms/types';
import { importRecords } from '@/server/actions/imports/import-records';
import { saveEdits } from '@/server/actions/records/save-edits';
import { disconnect } from '@/server/database/connection';
import { sendMessages } from '@/server/jobs/send-messages';
import { listMessages, listProposals } from '@/server/queries/today/proposals';
import { edit } from '@/server/testing/edits';
import { flawsIn } from '@/server/testing/flaws';
import { leftWhy, undone } from '@/server/testing/undone';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { rehearseUndo, undoRun, type UndoOptions } from './undo-run';

const model = inspections();
const [vase, robe] = [uuid('1'), uuid('2')];
const seen = uuid('11');
const ROWS = [
  rowOf(model, 'artefact', vase, { title: 'Vase', sort: 'tool', maker: 'Anning', number: new Decimal(7) }),
  rowOf(model, 'artefact', robe, { title: 'Robe', sort: 'tool', number: new Decimal(8) }),
  rowOf(model, 'inspection', seen, { title: 'Seen', artefact: vase, outcome: 'watch', byPhoto: false }),
];

let workspace: TestWorkspace;
const begin = async (...rules: RuleDefinition[]) => {
  workspace = await testWorkspace({ model, rows: ROWS, rules: numbered(rules) });
};
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const save = async (...edits: WireEdit[]) => (await saveEdits({ ...by(), edits })).run!;
const sort = (to: string, id = vase) => edit('artefact', id, { sort: to });
const damage = edit('inspection', seen, { outcome: 'damage' });
const all = async (type: string) =>
  (await workspace.rows())
    .filter((row) => row.type === type && !row.deleted)
    .map(({ id, values }): { readonly id: string } & Row['values'] => ({ id, ...values }));
const proposals = async (isDecided = false) => listProposals(await workspace.load(), isDecided);
const decide = (...decisions: Decision[]) => decideProposals({ ...by(), decisions });
const told = async (run: string) => rehearseUndo(await workspace.load(), run);

describe.each<[string, UndoOptions]>([
  ['one by one', {}],
  ['as a set', { mostOneByOne: 0 }],
])('undone %s', (_, options) => {
  const undo = async (run: string) => {
    const view = await undoRun({ ...by(), run }, options);
    expect(await flawsIn(workspace)).toEqual([]);
    return view;
  };

  test('what a run proposed is open no more, what it withdrew is open again, and the other way round', async () => {
    await begin(LINE);
    const proposed = await save(sort('textile'), sort('paper', robe));
    expect(await proposals()).toMatchObject({ open: 1, told: 1 });
    const { undoneBy } = await undo(proposed);
    expect(await proposals()).toMatchObject({ open: 0, told: 0 });
    expect((await proposals(true)).proposals.map(({ state }) => state)).toEqual(['withdrawn', 'withdrawn']);
    await undo(undoneBy!);
    expect(await proposals()).toMatchObject({ open: 1, told: 1 });

    const left = await save(sort('tool'));
    expect((await proposals()).open).toBe(0);
    await undo(left);
    expect((await proposals()).open).toBe(1);
  });

  test('what was made as approved goes, and is proposed again; undone in turn it is there, and nothing is proposed', async () => {
    await begin(LINE);
    await save(sort('textile'));
    const { id } = (await proposals()).proposals[0]!;
    const run = (await decide({ id, decision: 'approve' }))[0]!.run!;
    const [line] = await all('line');
    const { undoneBy } = await undo(run);
    expect([(await all('line')).length, (await proposals()).open]).toEqual([0, 1]);
    expect((await all('artefact')).find((one) => one.id === vase)).toMatchObject({
      ...{ line: null, lineNumber: null },
    });
    await undo(undoneBy!);
    expect(await all('line')).toEqual([line]);
    expect((await proposals()).open).toBe(0);
  });

  test('a proposal to which a run added is what it was before', async () => {
    await begin({ ...LINE, following: 'proposal', returning: 'not' });
    await save(sort('painting'));
    await save(edit('artefact', vase, { maker: 'Brandt' }));
    const before = (await proposals()).proposals;
    const added = await save(edit('artefact', vase, { worth: '30' }));
    expect((await proposals()).proposals[0]!.fields).toHaveLength(2);
    await undo(added);
    expect((await proposals()).proposals).toEqual(before);
  });

  test('messages that wait aren’t sent; those that were are told', async () => {
    await begin({ ...LINE, tells: TESTER.id });
    await undo(await save(sort('textile')));
    expect(await listMessages(await workspace.load())).toEqual([]);
    const sent = await save(sort('textile'));
    await sendMessages(workspace.key, { name: 'Test', send: () => Promise.resolve() });
    expect((await undo(sent)).messagesSent).toBe(1);
  });

  test('a record that a rule made doesn’t come back beside another that it has made since', async () => {
    await begin(TREATMENT);
    const { undoneBy } = await undo(await save(damage));
    const again = await told(undoneBy!);
    expect(undone(again)).toMatchObject({ restored: 1, left: 0 });
    await save(damage);
    const view = await told(undoneBy!);
    expect(leftWhy(view)).toContain('Treat Vase: “Rule 1” has made another since');
    expect(await all('treatment')).toHaveLength(1);
  });

  test('what followed, was taken back and was given goes back as well, and both sides agree', async () => {
    await begin(LINE);
    await save(sort('painting'));
    const before = await workspace.rows();
    const values = (rows: readonly Row[]) =>
      rows
        .map(({ id, deleted, values: of }) => ({ id, deleted, values: of }))
        .sort((a, b) => (a.id < b.id ? -1 : 1));
    const followed = await save(edit('artefact', vase, { maker: 'Brandt', worth: '30' }));
    expect((await all('line'))[0]).toMatchObject({ maker: 'Brandt' });
    expect(undone(await undo(followed))).toMatchObject({ written: 4, left: 0 });
    expect(values(await workspace.rows())).toEqual(values(before));
    const removed = await save(sort('tool'));
    expect(await all('line')).toEqual([]);
    await undo(removed);
    expect(values(await workspace.rows())).toEqual(values(before));
    // The pair is a pair again: one follows the other.
    await save(edit('line', (await all('line'))[0]!.id, { maker: 'Curie' }));
    expect((await all('artefact')).find(({ id }) => id === vase)).toMatchObject({ maker: 'Curie' });
  });

  test('records that came in from a file go with those that rules made for them', async () => {
    const count = rollUp({
      ...{ type: 'artefact', target: 'treatments', aggregate: 'count', value: null, whenNone: '0' },
      route: [{ direction: 'down', type: 'treatment', link: 'artefact' }],
    });
    await begin(LINE, TREATMENT, count);
    const records = Array.from({ length: 30 }, (_, at) => ({
      ...{ title: `Seen ${at}`, artefact: at % 2 ? vase : robe, outcome: 'damage', byPhoto: false },
    }));
    const { run } = await importRecords({ ...by(), type: 'inspection', records });
    expect(await all('treatment')).toHaveLength(30);
    expect(undone(await undo(run!))).toEqual({ written: 0, deleted: 60, restored: 0, left: 0 });
    expect(await all('treatment')).toEqual([]);
    expect((await all('artefact')).map(({ treatments }) => String(treatments))).toEqual(['0', '0']);
  });

  test('where a rule took a field in step, what a person had typed stands there again', async () => {
    const touringModel = touring();
    const [silk, kestrel, pots] = [uuid('11'), uuid('1'), uuid('22')];
    workspace = await testWorkspace({
      ...{ model: touringModel, rules: numbered([CASCADES.climate]) },
      rows: [
        rowOf(touringModel, 'institution', kestrel, {}),
        rowOf(touringModel, 'exhibition', silk, { title: 'Rivers of Silk', climate: 'Dry' }),
        rowOf(touringModel, 'loan', pots, { exhibition: silk, lender: kestrel, stage: 'declined' }),
      ],
    });
    await save(edit('loan', pots, { climate: 'Mine' }));
    const taken = await save(edit('loan', pots, { stage: 'agreed' }));
    expect((await all('loan'))[0]).toMatchObject({ climate: 'Dry' });
    await undo(taken);
    expect((await all('loan'))[0]).toMatchObject({ stage: 'declined', climate: 'Mine' });
    await save(edit('loan', pots, { climate: 'Still mine' }));
  });
});

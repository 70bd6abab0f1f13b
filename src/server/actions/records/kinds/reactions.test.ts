import { PLAIN_FORMS } from '@/core/values';
import type { WireEdit } from '@/core/engine';
import { type ImportPlan } from '@/core/intake';
import type { RollUp } from '@/core/rules';
import { fieldOf, galleries, gbp, rollUp, rowOf, uuid } from '@/core/testing/galleries';
import { numbered } from '@/core/testing/rule-desk';
import { disconnect } from '@/server/database/connection';
import { getExplanation } from '@/server/queries/records/explanation';
import { driftIn } from '@/server/testing/drift';
import { edit } from '@/server/testing/edits';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { editList, rehearseListEdit } from '@/server/actions/records/edit-list';
import { importFile } from '@/server/actions/imports/import-file';
import { previewLive } from '@/server/actions/rules/preview-live';
import { rehearseOnData } from '@/server/actions/records/rehearse';
import { saveEdits } from '@/server/actions/records/save-edits';
import { rehearseUndo, undoRun } from '@/server/undo/undo-run';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';

const model = galleries();
const [museum, silk, maps, empty] = ['1', '11', '12', '13'].map(uuid) as [string, string, string, string];
const [robes, pots, charts] = ['21', '22', '23'].map(uuid) as [string, string, string];

/** An exhibition is opened when all of its loans are agreed, closed when one no longer is. */
const OPENED: RollUp = rollUp({
  ...{ type: 'exhibition', target: 'open', aggregate: 'all' },
  ...{ route: [{ direction: 'down', type: 'loan', link: 'exhibition' }] },
  value: { kind: 'feel', text: 'stage = "agreed"' },
  map: {
    rows: [
      { operator: '=', than: true, writes: true },
      { operator: '=', than: false, writes: false },
    ],
    otherwise: { kind: 'asItIs' },
  },
});

let workspace: TestWorkspace;
const start = async (rules: readonly RollUp[] = []) => {
  workspace = await testWorkspace({
    ...{ model, rules: numbered(rules) },
    rows: [
      rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk', open: false }),
      rowOf(model, 'exhibition', maps, { title: 'The Mapmaker’s Table', open: null }),
      rowOf(model, 'exhibition', empty, { title: 'Nothing yet', open: true }),
      rowOf(model, 'loan', robes, { title: 'Robes', exhibition: silk, stage: 'agreed' }),
      rowOf(model, 'loan', pots, { title: 'Pots', exhibition: silk, stage: 'requested' }),
      rowOf(model, 'loan', charts, { title: 'Charts', exhibition: maps, stage: 'agreed' }),
    ],
  });
};
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const save = (...edits: WireEdit[]) => saveEdits({ ...by(), edits });
const stage = (id: string, to: string) => edit('loan', id, { stage: to });
const open = async () =>
  Object.fromEntries(
    (await workspace.rows())
      .filter(({ type }) => type === 'exhibition')
      .map(({ id, values }) => [id, values.open]),
  );

describe('taken live', () => {
  const draft = async () => {
    await start();
    return createRule({ ...by(), definition: OPENED });
  };

  test('it acts only on what comes from now on', async () => {
    const id = await draft();
    await changeState({ ...by(), id, state: 'live' });
    expect(await open()).toEqual({ [silk]: false, [maps]: null, [empty]: true });
    await save(stage(charts, 'declined'));
    expect((await open())[maps]).toBe(false);
    await save(stage(charts, 'agreed'));
    expect((await open())[maps]).toBe(true);
  });

  test('or also on the records that match already, as its preview tells', async () => {
    const id = await draft();
    const { effects } = await previewLive(workspace.key, id);
    expect(effects[0]).toMatchObject({ changed: 1, largest: [{ title: 'The Mapmaker’s Table' }] });
    await changeState({ ...by(), id, state: 'live', actsOnMatching: true });
    expect(await open()).toEqual({ [silk]: false, [maps]: true, [empty]: true });
    expect(await driftIn(workspace)).toEqual([]);
  });

  test('taken live again it doesn’t catch up on what happened while it was paused', async () => {
    const id = await draft();
    await changeState({ ...by(), id, state: 'live' });
    await changeState({ ...by(), id, state: 'paused' });
    await save(stage(pots, 'agreed'));
    await changeState({ ...by(), id, state: 'live' });
    expect((await open())[silk]).toBe(false);
    await save(stage(robes, 'declined'));
    await save(stage(robes, 'agreed'));
    expect((await open())[silk]).toBe(true);
  });
});

test('what is entered in the same run stands, and that is told', async () => {
  await start([OPENED]);
  const { ripple } = await save(stage(pots, 'agreed'), edit('exhibition', silk, { open: false }));
  expect((await open())[silk]).toBe(false);
  expect(ripple.overruled).toMatchObject([
    { title: 'Rivers of Silk', fieldName: 'Open', value: { text: 'yes' } },
  ]);
});

test('the rehearsal tells what a save does, and saves nothing', async () => {
  await start([OPENED]);
  const edits = [stage(pots, 'agreed')];
  const { ripple } = await rehearseOnData({ workspace: workspace.key, edits, drafts: [] });
  expect((await open())[silk]).toBe(false);
  const saved = await save(...edits);
  expect(saved.ripple.waves).toEqual(ripple.waves);
  expect((await open())[silk]).toBe(true);
});

test('undone, what it wrote is written back, and nothing reacts', async () => {
  await start([OPENED]);
  const { run } = await save(stage(pots, 'agreed'));
  const { written } = await rehearseUndo(await workspace.load(), run!);
  expect(written.map(({ fieldName, samples }) => `${fieldName} ${samples[0]!.after.text}`)).toEqual([
    'Open no',
    'Stage Requested',
  ]);
  await save(edit('exhibition', silk, { open: null }));
  const { left } = await undoRun({ ...by(), run: run! });
  expect(left).toMatchObject([
    {
      ...{ fieldName: 'Open', reason: 'it was changed since' },
      ...{ before: { text: 'no' }, after: { text: 'yes' }, current: { text: 'empty' } },
    },
  ]);
  expect((await open())[silk]).toBeNull();
});

test('a record that comes back from the bin isn’t changed by that', async () => {
  await start([OPENED]);
  await save({ kind: 'delete', type: 'loan', id: charts });
  await save({ kind: 'delete', type: 'exhibition', id: maps });
  await save({ kind: 'restore', type: 'exhibition', id: maps });
  expect((await open())[maps]).toBeNull();
});

test('an error in what it reads undoes the run, by name', async () => {
  const GRADED = rollUp({
    ...{ type: 'exhibition', target: 'grade', aggregate: 'sum', value: fieldOf('weight') },
    ...{ route: [{ direction: 'down', type: 'loan', link: 'exhibition' }] },
  });
  const GRADES = rollUp({
    ...{ type: 'institution', target: 'title', aggregate: 'count' },
    ...{ route: [{ direction: 'down', type: 'exhibition', link: 'venue' }] },
    condition: {
      kind: 'compare',
      operator: '>',
      left: fieldOf('grade'),
      right: { kind: 'constant', value: '3' },
    },
    map: { rows: [{ operator: '>', than: '0', writes: 'Hard' }], otherwise: { kind: 'asItIs' } },
  });
  await start([GRADED]);
  const bad = await refusal(createRule({ ...by(), definition: GRADES }));
  expect(bad.parts).toMatchObject([
    { place: 'target', message: expect.stringContaining('entered by people') },
  ]);
  const partCount = {
    ...GRADES,
    target: 'partCount',
    map: { ...GRADES.map!, rows: [{ ...GRADES.map!.rows[0]!, writes: '9' }] },
  };
  const id = await createRule({ ...by(), definition: partCount });
  await changeState({ ...by(), id, state: 'live' });
  await save(edit('exhibition', silk, { venue: museum }));
  const found = await refusal(save(edit('loan', robes, { weight: '7' })));
  expect(found.message).toContain('can’t tell what to do on “Kestrel Museum”');
  await save(edit('loan', robes, { weight: '5' }));
  expect((await workspace.rows()).find(({ id: of }) => of === museum)!.values.partCount?.toString()).toBe(
    '9',
  );
});

test('an import reacts like a save; a filled cell stands, an empty one doesn’t', async () => {
  await start([OPENED]);
  const plan: ImportPlan = {
    ...{
      format: 'csv',
      encoding: 'utf-8',
      separator: ',',
      forms: PLAIN_FORMS,
      key: ['title'],
      refused: 'stop',
    },
    columns: [
      { column: 'Title', field: 'title' },
      { column: 'Stage', field: 'stage' },
    ],
  };
  const bytes = async function* () {
    yield Buffer.from('Title,Stage\nPots,Agreed\nCharts,Declined');
  };
  await importFile({ ...by(), type: 'loan', plan, bytes: bytes() });
  expect(await open()).toEqual({ [silk]: true, [maps]: false, [empty]: true });
  expect(await driftIn(workspace)).toEqual([]);
});

test('an edit of a list reacts like a save, and can’t enter what a person stays free to: that stands', async () => {
  await start([OPENED]);
  const given = { ...by(), type: 'loan', values: { stage: 'agreed' } };
  const told = await rehearseListEdit(given);
  await editList({ ...given, expected: told.changed });
  expect(await open()).toEqual({ [silk]: true, [maps]: null, [empty]: true });
  // Entered for the whole list: nothing of it is overruled, since no loan changes.
  const entered = { ...by(), type: 'exhibition', values: { open: false } };
  await editList({ ...entered, expected: (await rehearseListEdit(entered)).changed });
  expect(await open()).toEqual({ [silk]: false, [maps]: false, [empty]: false });
  expect(await driftIn(workspace)).toEqual([]);
});

test('what it looks at can be opened: the result, and what each would write', async () => {
  await start([OPENED]);
  const opened = await getExplanation(await workspace.load(), {
    ...{ type: 'exhibition', id: silk, field: 'open', from: 0, limit: 20 },
  });
  expect(opened).toMatchObject({
    counted: 2,
    map: { given: { value: { text: 'no' } }, isReacting: true, applies: true },
    stored: { value: { text: 'no' } },
  });
  expect(opened.map!.rows.filter(({ isChosen }) => isChosen)).toEqual([
    { when: 'when no', writes: 'no', isChosen: true },
  ]);
});

test('a kept map writes what stands for the result, within its limits', async () => {
  const WEIGHED: RollUp = rollUp({
    ...{ type: 'exhibition', target: 'artefactCount', aggregate: 'sum', value: fieldOf('weight') },
    ...{ route: [{ direction: 'down', type: 'loan', link: 'exhibition' }], whenNone: '0' },
    limits: { most: '10' },
    map: {
      rows: [{ operator: '>=', than: '10', writes: '3' }],
      otherwise: { kind: 'writes', value: '1' },
    },
  });
  const CAPPED: RollUp = rollUp({
    ...{ type: 'exhibition', target: 'insuredTotal', aggregate: 'sum', value: fieldOf('insuredValue') },
    ...{ route: [{ direction: 'down', type: 'loan', link: 'exhibition' }] },
    limits: { least: '50', most: '100' },
  });
  await start([WEIGHED, CAPPED]);
  const values = async () => (await workspace.rows()).find(({ id }) => id === silk)!.values;
  await save(edit('loan', robes, { weight: '12.5', insuredValue: { amount: '3', currency: 'GBP' } }));
  expect(await values()).toMatchObject({ insuredTotal: gbp('50') });
  expect((await values()).artefactCount?.toString()).toBe('3');
  await save(edit('loan', robes, { weight: '9', insuredValue: { amount: '300', currency: 'GBP' } }));
  expect(await values()).toMatchObject({ insuredTotal: gbp('100') });
  expect((await values()).artefactCount?.toString()).toBe('1');
  expect(await driftIn(workspace)).toEqual([]);
});

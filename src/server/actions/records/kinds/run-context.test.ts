import type { Row, WireEdit } from '@/core/engine';
import type { RuleDefinition } from '@/core/rules';
import { rowOf, uuid } from '@/core/testing/galleries';
import { numbered } from '@/core/testing/rule-desk';
import { CLOSED, LATE, PUT_IN, REMINDER, SEEN_LATE, SIGNED, signing } from '@/core/testing/signing';
import { disconnect } from '@/server/database/connection';
import { settleDay } from '@/server/jobs/settle-days';
import { filledFor } from '@/server/queries/records/filled';
import { getRun } from '@/server/queries/ledger/runs';
import { edit } from '@/server/testing/edits';
import { flawsIn } from '@/server/testing/flaws';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { editList, rehearseListEdit } from '@/server/actions/records/edit-list';
import { importRecords } from '@/server/actions/imports/import-records';
import { makeAsked } from '@/server/actions/records/make-asked';
import { previewLive } from '@/server/actions/rules/preview-live';
import { rehearseOnData } from '@/server/actions/records/rehearse';
import { saveEdits } from '@/server/actions/records/save-edits';
import { createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';

const model = signing();
const [tax, rent] = [uuid('11'), uuid('12')];
const feel = (text: string) => ({ kind: 'expression', expression: { kind: 'feel', text } }) as const;
const FILES = [
  rowOf(model, 'file', tax, { title: 'Tax', state: 'open', due: '2027-04-01' }),
  rowOf(model, 'file', rent, { title: 'Rent', state: 'open', due: '2027-05-01' }),
];
const papers = (count: number): Row[] =>
  Array.from({ length: count }, (_, at) =>
    rowOf(model, 'paper', uuid(String(1_000 + at)), { title: `Paper ${at}`, file: tax }),
  );
let workspace: TestWorkspace;
const begin = async (rules: readonly RuleDefinition[], rows: readonly Row[] = []) => {
  workspace = await testWorkspace({ model, rows: [...FILES, ...rows], rules: numbered(rules) });
};
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const save = (...edits: WireEdit[]) => saveEdits({ ...by(), edits });
const all = async (type: string) =>
  (await workspace.rows()).filter((row) => row.type === type && !row.deleted).map(({ values }) => values);
const file = async (id: string) => (await workspace.rows()).find((row) => row.id === id)!.values;
const runAt = async (run: string | null) => (await getRun(await workspace.load(), run!)).at;
const close = edit('file', tax, { state: 'closed' });

test('a save writes who makes it, and the moment that its run has in the ledger; a rehearsal says the same', async () => {
  await begin([CLOSED, SIGNED], papers(3));
  const rehearsed = await rehearseOnData({ ...by(), edits: [close], drafts: [] });
  const told = rehearsed.ripple.waves.flatMap(({ changes }) => changes);
  expect(told.find(({ field }) => field === 'closedBy')!.after!.text).toBe(TESTER.name);
  const { run } = await save(close);
  expect(await file(tax)).toMatchObject({ closedBy: TESTER.id, closedAt: await runAt(run) });
  for (const paper of await all('paper'))
    expect(paper).toMatchObject({ signedBy: TESTER.id, signedAt: await runAt(run) });
  await saveEdits({
    workspace: workspace.key,
    person: null,
    edits: [edit('file', rent, { state: 'closed' })],
  });
  expect((await file(rent)).closedBy).toBeNull();
  expect(await flawsIn(workspace)).toEqual([]);
});

test('the same where it reaches so many that they are written as a set', async () => {
  await begin([SIGNED], papers(1_100));
  const { run } = await save(close);
  const at = await runAt(run);
  const signed = await all('paper');
  expect(signed).toHaveLength(1_100);
  expect(signed.every(({ signedBy, signedAt }) => signedBy === TESTER.id && signedAt === at)).toBe(true);
});

test('an import and an edit of a list are somebody’s, too', async () => {
  await begin([CLOSED, PUT_IN, REMINDER]);
  const imported = await importRecords({ ...by(), type: 'paper', records: [{ title: 'One', file: tax }] });
  expect(await all('paper')).toMatchObject([{ signedBy: TESTER.id }]);
  expect(imported.run).not.toBeNull();
  const values = { state: 'closed', due: '2027-01-01' };
  const rehearsed = await rehearseListEdit({ ...by(), type: 'file', values });
  const told = rehearsed.effects.filter(({ records }) => records > 0);
  expect(told.map(({ typeName, fieldName, records }) => [typeName, fieldName, records])).toEqual([
    ['File', 'Closed by', 2],
    ['File', 'Closed at', 2],
    ['Reminder', null, 2],
  ]);
  expect(rehearsed.effects[0]!.samples[0]!.after.text).toBe(TESTER.name);
  const { run } = await editList({ ...by(), type: 'file', values, expected: 2 });
  const at = await runAt(run!);
  expect(await all('file')).toMatchObject([
    { closedBy: TESTER.id, closedAt: at },
    { closedBy: TESTER.id, closedAt: at },
  ]);
  expect(await all('reminder')).toMatchObject([
    { madeBy: TESTER.id, madeAt: at },
    { madeBy: TESTER.id, madeAt: at },
  ]);
});

test('taken live for those that match it is the change of who takes it live', async () => {
  await begin([], papers(2));
  await save(close);
  const id = await createRule({ ...by(), name: 'Signed', definition: SIGNED });
  const { effects } = await previewLive(workspace.key, id, { person: TESTER.id });
  expect(effects.map(({ fieldName, changed }) => `${fieldName} ${changed}`).sort()).toEqual([
    'Signed at 2',
    'Signed by 2',
  ]);
  expect(effects.find(({ fieldName }) => fieldName === 'Signed by')!.spread).toEqual({
    ...{ of: 'values', others: 0, bars: [{ label: TESTER.name, records: 2 }] },
  });
  const { run } = await changeState({ ...by(), id, state: 'live', actsOnMatching: true });
  expect(await all('paper')).toMatchObject([
    { signedBy: TESTER.id, signedAt: await runAt(run) },
    { signedBy: TESTER.id },
  ]);
});

test('asked for it is the change of who asks: by the button one, at its time Oikon’s own, one by one or many at once', async () => {
  await begin([{ ...REMINDER, condition: null, pace: { kind: 'onRequest', field: null } }]);
  const [rule] = workspace.rules as [string];
  const filled = await filledFor(await workspace.load(), rule, tax, TESTER.id);
  expect(filled.values).toMatchObject({ madeBy: TESTER.id });
  const { run } = await makeAsked({ workspace: workspace.key, person: null, rules: [rule] });
  expect(await all('reminder')).toMatchObject([{ madeBy: null, madeAt: await runAt(run) }, { madeBy: null }]);
  const many = Array.from({ length: 1_100 }, (_, at) => ({ title: `File ${at}` }));
  await importRecords({ ...by(), type: 'file', records: many });
  const set = await makeAsked({ ...by(), rules: [rule] });
  expect(set.made).toBe(1_100);
  const at = await runAt(set.run);
  const made = (await all('reminder')).filter(({ madeBy }) => madeBy === TESTER.id);
  expect(made).toHaveLength(1_100);
  expect(made.every(({ madeAt }) => madeAt === at)).toBe(true);
});

test('where the day turns what comes to hold is acted on in the same run, by nobody, and is taken back where it holds no more', async () => {
  await begin([LATE, SEEN_LATE, REMINDER]);
  const april = await settleDay(workspace.key, '2027-04-02');
  const at = await runAt(april!.run);
  expect(await file(tax)).toMatchObject({ late: true, seenLate: at });
  expect(await file(rent)).toMatchObject({ late: false, seenLate: null });
  expect(await all('reminder')).toMatchObject([{ file: tax, madeBy: null, madeAt: at }]);
  expect(april!.written.map(({ records }) => records)).toEqual([1, 1, 1]);
  await settleDay(workspace.key, '2027-05-02');
  expect(await all('reminder')).toHaveLength(2);
  await settleDay(workspace.key, '2027-05-03');
  expect(await all('reminder')).toHaveLength(2);
  await save(edit('file', tax, { due: '2027-12-01' }));
  expect(await all('reminder')).toMatchObject([{ file: rent }]);
  expect(await flawsIn(workspace)).toEqual([]);
});

test('where what follows from the day can’t be done the day is settled all the same, and its run says what was left', async () => {
  const count = {
    ...SEEN_LATE,
    assignments: [{ target: 'seenLate', value: feel('if 1 / size = 0 then null else now()') }],
  };
  await begin([LATE, count]);
  await save(edit('file', tax, { size: '0' }));
  const settled = await settleDay(workspace.key, '2027-04-02');
  expect(await file(tax)).toMatchObject({ late: true, seenLate: null });
  expect((await getRun(await workspace.load(), settled!.run!)).note).toMatch(
    /can’t tell what to do on “Tax”.*was left/,
  );
  expect((await workspace.load()).settledDay).toBe('2027-04-02');
});

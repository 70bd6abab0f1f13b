import type { WireEdit } from '@/core/engine';
import { type ImportPlan } from '@/core/intake';
import type { ModelChange, RecordType } from '@/core/model';
import { CHECK, withChecks } from '@/core/testing/checks';
import { rowOf, uuid } from '@/core/testing/galleries';
import { toWire, PLAIN_FORMS } from '@/core/values';
import { disconnect } from '@/server/database/connection';
import { loadWorkspace } from '@/server/store/session/workspace';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { applyModelChanges, rehearseModel } from '@/server/actions/model/change-model';
import { exportBundle } from '@/server/actions/bundles/export-bundle';
import { importBundle } from '@/server/actions/bundles/import-bundle';
import { importFile, rehearseImport } from '@/server/actions/imports/import-file';
import { addWorkspace, removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { saveEdits } from './save-edits';

const [loan, urn, fan, check] = ['21', '31', '32', '41'].map(uuid) as [string, string, string, string];
let workspace: TestWorkspace;
const made: string[] = [];

const open = async (type: RecordType = CHECK) => {
  const model = withChecks(type);
  const row = (of: string, id: string, values: Record<string, string>) => rowOf(model, of, id, values);
  workspace = await testWorkspace({
    ...{ model, rules: [] },
    rows: [
      row('loan', loan, { title: 'Robes' }),
      row('artefact', urn, { title: 'Urn', loan }),
      row('artefact', fan, { title: 'Fan', loan }),
      ...(type.openLinks ? [row('check', check, { title: 'First', artefact: urn })] : []),
    ],
  });
};
afterEach(async () => {
  await workspace.remove();
  for (const key of made.splice(0)) await removeWorkspace(key);
});
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const save = (...edits: WireEdit[]) => saveEdits({ ...by(), edits });
const make = (title: string, values: Record<string, string> = { loan }): WireEdit => ({
  ...{ kind: 'create', type: 'check', values: { title, ...values } },
});
const checks = async (key = workspace.key) =>
  (await workspace.rowsOf(key))
    .filter(({ type }) => type === 'check')
    .map(
      ({ values }) =>
        ({ ...values, number: toWire(CHECK.fields[1]!.type, values.number!) }) as Record<
          string,
          string | null
        >,
    )
    .sort((a, b) => Number(a.number) - Number(b.number));
const apply = async (...changes: ModelChange[]) =>
  applyModelChanges({ ...by(), changes, version: (await workspace.load()).modelVersion });

const PLAN: ImportPlan = {
  ...{ format: 'csv', encoding: 'utf-8', separator: ',', forms: PLAIN_FORMS, key: [], refused: 'leaveOut' },
  columns: [
    { column: 'title', field: 'title' },
    { column: 'loan', field: 'loan' },
    { column: 'artefact', field: 'artefact' },
  ],
};
async function* bytesOf(text: string): AsyncGenerator<Uint8Array> {
  yield Buffer.from(text);
}
const file = (text: string, plan: Partial<ImportPlan> = {}) => ({
  ...{ ...by(), type: 'check', plan: { ...PLAN, ...plan }, bytes: bytesOf(text) },
});

describe('serial numbers', () => {
  test('eight writers at once: every record has its number, none twice, none left out', async () => {
    await open();
    await Promise.all(
      Array.from({ length: 8 }, async (_, writer) => {
        for (let at = 0; at < 10; at += 1) {
          await save(make(`${writer} ${at}`), make(`${writer} ${at} too`));
          // A save that is refused after numbers were taken gives them back.
          await refusal(save(make('refused', { loan: uuid('99') })));
        }
      }),
    );
    const numbers = (await checks()).map(({ number }) => Number(number));
    expect(numbers).toEqual(Array.from({ length: 161 }, (_, at) => at + 1));
  });

  test('a number survives the bin, and a field that is added later numbers what is there in the order of making', async () => {
    const [title, , ...rest] = CHECK.fields;
    await open({ ...CHECK, fields: [title!, ...rest] });
    await save(make('Second'));
    await save(make('Third'));
    const number = { kind: 'addField', type: 'check', field: CHECK.fields[1]! } as const;
    const { steps } = await rehearseModel(workspace.key, [number]);
    expect(steps).toMatchObject([{ kind: 'addField', stored: 3, refusal: null }]);
    await apply(number);
    expect((await checks()).map(({ title: of, number: at }) => `${at} ${of}`)).toEqual([
      '1 First',
      '2 Second',
      '3 Third',
    ]);
    const [, , third] = (await workspace.rows()).filter(({ type }) => type === 'check');
    await save({ kind: 'delete', type: 'check', id: third!.id });
    await save(make('Fourth'));
    await save({ kind: 'restore', type: 'check', id: third!.id });
    expect((await checks()).map(({ number: at }) => at)).toEqual(['1', '2', '3', '4']);
    await apply({ kind: 'removeField', type: 'check', key: 'number' });
    await apply(number);
    expect((await checks()).map(({ number: at }) => at)).toEqual(['1', '2', '3', '4']);
  });

  test('an import numbers its records, finds others by their number, and can’t make up numbers', async () => {
    await open();
    const rows = `title,loan,artefact\nSecond,Robes,\nThird,,Fan\n`;
    expect(await rehearseImport(file(rows))).toMatchObject({ created: 2, refused: 0 });
    expect(await checks()).toHaveLength(1);
    await importFile(file(rows));
    expect((await checks()).map(({ number }) => number)).toEqual(['1', '2', '3']);
    const byNumber = { key: ['number'], columns: [PLAN.columns[0]!, { column: 'number', field: 'number' }] };
    const found = await importFile(file(`title,number\nNamed anew,C-002\nOf nobody,C-900\n`, byNumber));
    expect(found).toMatchObject({ changed: 1, created: 0, refused: 1 });
    expect(found.refusals[0]!.message).toMatch(/there is no Check with this number/);
    expect((await checks())[1]!.title).toBe('Named anew');
    const plan = { columns: byNumber.columns };
    expect((await refusal(importFile(file('title,number\n', plan)))).message).toMatch(/which Oikon gives/);
  });

  test('copies and bundles keep the numbers, and go on after them', async () => {
    await open();
    await save(make('Second'));
    const { key } = await addWorkspace(
      { name: 'A trial', copyOf: workspace.key, withRecords: true },
      TESTER.id,
    );
    made.push(key);
    let bundle = '';
    for await (const piece of exportBundle(workspace.key, true)) bundle += piece;
    const { key: taken } = await importBundle(bundle, 'From a bundle', TESTER.id);
    made.push(taken);
    for (const other of [key, taken]) {
      await saveEdits({ workspace: other, person: TESTER.id, edits: [make('Third')] });
      expect((await checks(other)).map(({ number }) => number)).toEqual(['1', '2', '3']);
      expect((await loadWorkspace(other)).model.type('check')!.openLinks).toEqual(CHECK.openLinks);
    }
  });
});

describe('open links', () => {
  test('a record moves from a parent of one type to one of another, whoever writes it', async () => {
    await open();
    await save({ kind: 'edit', type: 'check', id: check, values: { loan } });
    expect(await checks()).toMatchObject([{ loan, artefact: null }]);
    const byTitle = { key: ['title'], columns: [PLAN.columns[0]!, PLAN.columns[2]!] };
    await importFile(file('title,artefact\nFirst,Fan\n', byTitle));
    expect(await checks()).toMatchObject([{ loan: null, artefact: fan }]);
  });

  test('rows of a file with two parents or none are refused; one that leaves the cells empty keeps its parent', async () => {
    await open();
    const view = await rehearseImport(file(`title,loan,artefact\nBoth,Robes,Fan\nNone,,\nOne,Robes,\n`));
    expect(view).toMatchObject({ created: 1, refused: 2 });
    expect(view.refusals.map(({ line, message }) => `${line} ${message}`)).toEqual([
      '2 Concerns names one record, not several. Leave all but one of these cells empty.',
      '3 Concerns is required. Fill in one of its links.',
    ]);
    const kept = await rehearseImport(file(`title,loan,artefact\nFirst,,\n`, { key: ['title'] }));
    expect(kept).toMatchObject({ changed: 0, refused: 0 });
  });

  test('links become an open link where every record fits, and else it is said how many don’t', async () => {
    const { openLinks, ...plain } = CHECK;
    await open(plain);
    await save(make('Both', { loan, artefact: urn }), make('One'));
    const add = { kind: 'addOpenLink', type: 'check', openLink: openLinks![0]! } as const;
    const { steps, isPossible } = await rehearseModel(workspace.key, [add]);
    expect(isPossible).toBe(false);
    expect(steps[0]!.refusal!.message).toMatch(/1 name several parents by its links\. Change these first/);
    const [both] = (await workspace.rows()).filter(({ values }) => values.title === 'Both');
    await save({ kind: 'edit', type: 'check', id: both!.id, values: { loan: null } });
    await apply(add);
    expect((await refusal(save(make('None', {})))).message).toMatch(/Concerns is required/);
    await apply({ kind: 'removeOpenLink', type: 'check', key: 'concerns' });
    await save(make('Two again', { loan, artefact: urn }));
  });
});

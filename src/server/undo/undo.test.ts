import type { Row, WireEdit } from '@/core/engine';
import { readModel } from '@/core/model';
import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import type { UndoView } from '@/core/api';
import type { Refusal } from '@/server/refusal';
import { disconnect } from '@/server/database/connection';
import { saveEdits } from '@/server/actions/records/save-edits';
import { flawsIn } from '@/server/testing/flaws';
import { leftWhy, undone } from '@/server/testing/undone';
import { type TestWorkspace, TESTER, testWorkspace } from '@/server/testing/workspace';
import { rehearseUndo, undoRun } from './undo-run';

const base = galleries();
const model = readModel({
  types: base.types.map((type) => ({
    ...type,
    fields: type.fields.map((field) =>
      type.key === 'institution' && field.key === 'title' ? { ...field, unique: true } : field,
    ),
  })),
});
const [silk, robes, pots, fan] = ['11', '21', '22', '31'].map(uuid) as [string, string, string, string];

let workspace: TestWorkspace;
beforeEach(async () => {
  workspace = await testWorkspace({
    model,
    rules: [ruleOf(INSURED_TOTAL, 1, 'Total')],
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      rowOf(model, 'loan', robes, {
        title: 'Robes',
        exhibition: silk,
        stage: 'agreed',
        insuredValue: gbp(100),
      }),
      rowOf(model, 'loan', pots, { title: 'Pots', exhibition: silk, stage: 'agreed', insuredValue: gbp(7) }),
      rowOf(model, 'artefact', fan, { title: 'Fan', loan: robes }),
    ],
  });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const save = async (...edits: WireEdit[]): Promise<string> =>
  (await saveEdits({ workspace: workspace.key, person: TESTER.id, edits })).run!;
const at = { '2,000': {}, none: { mostOneByOne: 0 } } as const;
/** Everything but versions, which people's changes raise. */
const shape = (rows: readonly Row[]) =>
  rows
    .filter((row) => !row.deleted)
    .map(({ type, id, values, errors }) => JSON.stringify({ type, id, values, errors }))
    .sort();
const edit = (id: string, values: Record<string, unknown>): WireEdit => ({
  kind: 'edit',
  type: 'loan',
  id,
  values,
});

describe.each(Object.entries(at))('up to %s records one by one, the others as a set:', (_, options) => {
  const told = async (run: string) => rehearseUndo(await workspace.load(), run, options);
  /** Undoes a run, of which the rehearsal told the same. */
  const undo = async (run: string): Promise<UndoView> => {
    const rehearsed = await told(run);
    const done = await undoRun({ workspace: workspace.key, person: TESTER.id, run }, options);
    expect({ ...done, undoneBy: null }).toEqual(rehearsed);
    expect(await flawsIn(workspace)).toEqual([]);
    return done;
  };

  test('edits, additions and deletions of a run are undone by another: all is as it was, totals too', async () => {
    const before = shape(await workspace.rows());
    const run = await save(
      edit(pots, { insuredValue: { amount: '9.00', currency: 'GBP' }, stage: null }),
      { kind: 'delete', type: 'loan', id: robes },
      { kind: 'create', type: 'loan', values: { title: 'Urn', exhibition: silk } },
    );
    const after = shape(await workspace.rows());
    const { undoneBy, left, written } = await undo(run);
    expect(left).toEqual([]);
    expect(written.find(({ fieldName }) => fieldName === 'Stage')!.samples).toMatchObject([
      { title: 'Pots', before: { text: 'empty' }, after: { text: 'Agreed' } },
    ]);
    expect(shape(await workspace.rows())).toEqual(before);
    // An undo is a run like any other, and can be undone.
    const again = await undo(undoneBy!);
    expect(shape(await workspace.rows())).toEqual(after);
    await undo(again.undoneBy!);
    expect(shape(await workspace.rows())).toEqual(before);
  });

  test('what was changed since stays as it is, and is told with what stood there; the rest is written back', async () => {
    const run = await save(
      edit(pots, { insuredValue: { amount: '9.00', currency: 'GBP' }, dueBack: '2027-01-01' }),
      { kind: 'create', type: 'loan', id: uuid('41'), values: { title: 'Urn' } },
    );
    await save(
      edit(pots, { insuredValue: { amount: '10.00', currency: 'GBP' } }),
      edit(uuid('41'), { title: 'Vase' }),
    );
    const { left, ...view } = await undo(run);
    expect(undone({ left, ...view })).toEqual({ written: 1, deleted: 0, restored: 0, left: 2 });
    expect(left).toMatchObject([
      { title: 'Vase', fieldName: null, reason: 'somebody changed it since it was made' },
      {
        ...{ title: 'Pots', fieldName: 'Insured value', reason: 'it was changed since' },
        ...{ before: { text: '7.00 GBP' }, after: { text: '9.00 GBP' }, current: { text: '10.00 GBP' } },
      },
    ]);
    await undo(run).then(fail, (error: Refusal) => expect(error.code).toBe('undo.nothing'));
  });

  test('what went along with a record comes back with it, and links that were cleared', async () => {
    const before = shape(await workspace.rows());
    const run = await save({ kind: 'delete', type: 'loan', id: robes });
    expect((await undo(run)).left).toEqual([]);
    expect(shape(await workspace.rows())).toEqual(before);
  });

  test('what came back goes into the bin again, with what it lay there with', async () => {
    const gone = await save({ kind: 'delete', type: 'loan', id: robes });
    const bin = await workspace.rows();
    const run = await save({ kind: 'restore', type: 'loan', id: robes });
    await undo(run);
    expect(shape(await workspace.rows())).toEqual(shape(bin));
    await save({ kind: 'restore', type: 'loan', id: robes });
    expect(leftWhy(await told(gone))).toContain('Robes: it isn’t in the bin any more');
  });

  test('nothing is done that would be refused: a link to what lies in the bin by now stays, and is told', async () => {
    const salt = uuid('12');
    await save({ kind: 'create', type: 'exhibition', id: salt, values: { title: 'Salt' } });
    const moved = await save(
      edit(pots, { exhibition: salt, dueBack: '2027-01-01' }),
      edit(robes, { exhibition: salt }),
    );
    await save({ kind: 'delete', type: 'exhibition', id: silk });
    const view = await undo(moved);
    expect(leftWhy(view)).toEqual([
      'Exhibition of Pots: “Rivers of Silk”, which it named, is in the bin',
      'Exhibition of Robes: “Rivers of Silk”, which it named, is in the bin',
    ]);
    expect(undone(view)).toMatchObject({ written: 1 });
  });

  test('a record that would lie inside itself, or have what another has by now, stays as it is', async () => {
    const [trust, wing] = [uuid('1'), uuid('2')];
    await save(
      { kind: 'create', type: 'institution', id: trust, values: { title: 'Trust' } },
      { kind: 'create', type: 'institution', id: wing, values: { title: 'Wing', partOf: trust } },
    );
    const apart = await save({ kind: 'edit', type: 'institution', id: wing, values: { partOf: null } });
    await save({ kind: 'edit', type: 'institution', id: trust, values: { partOf: wing } });
    expect(leftWhy(await told(apart))).toEqual(['Part of of Wing: it would lie inside itself']);

    const named = await save({ kind: 'edit', type: 'institution', id: wing, values: { title: 'West wing' } });
    await save({ kind: 'create', type: 'institution', values: { title: 'Wing' } });
    const renamed = leftWhy(await told(named));
    expect(renamed).toEqual(['Title of West wing: “Wing” has the same Title by now, and no two may']);
    const gone = await save({ kind: 'delete', type: 'institution', id: trust });
    await save({ kind: 'create', type: 'institution', values: { title: 'Trust' } });
    expect(leftWhy(await told(gone))).toEqual(['Trust: “Trust” has the same Title by now, and no two may']);
  });

  test('what others hung under a record since isn’t taken along: it stays, and says what holds it', async () => {
    const [salt, urn] = [uuid('12'), uuid('41')];
    const made = await save(
      { kind: 'create', type: 'exhibition', id: salt, values: { title: 'Salt' } },
      { kind: 'create', type: 'loan', id: urn, values: { title: 'Urn', exhibition: salt } },
      edit(pots, { exhibition: salt }),
    );
    // What the run itself hung there goes, or goes back.
    expect((await told(made)).left).toEqual([]);
    await save({ kind: 'create', type: 'artefact', values: { title: 'Lid', loan: urn } });
    expect(leftWhy(await undo(made))).toEqual([
      'Salt: the Loan “Urn” hangs under it now',
      'Urn: the Artefact “Lid” hangs under it now',
    ]);
    expect((await workspace.rows()).filter(({ deleted }) => deleted)).toEqual([]);
    expect((await workspace.rows()).find(({ id }) => id === pots)!.values.exhibition).toBe(silk);
  });

  test('what is left is told in pages', async () => {
    const run = await save(edit(pots, { dueBack: '2027-01-01' }), edit(robes, { dueBack: '2027-01-01' }));
    await save(edit(pots, { dueBack: null }), edit(robes, { dueBack: null }));
    const page = async (from: number) =>
      rehearseUndo(await workspace.load(), run, { ...options, limit: 1, from });
    const [first, second] = [await page(0), await page(1)];
    expect([first.leftCount, first.left.length, second.left.length]).toEqual([2, 1, 1]);
    expect(first.left[0]!.id).not.toBe(second.left[0]!.id);
  });
});

const fail = () => {
  throw new Error('It should have been refused');
};

test('taking a rule live isn’t undone by writing values back', async () => {
  const view = async (run: string) => rehearseUndo(await workspace.load(), run);
  await expect(view('2')).rejects.toMatchObject({ status: 409, code: 'undo.kind' });
  await expect(view('999')).rejects.toMatchObject({ status: 404 });
});

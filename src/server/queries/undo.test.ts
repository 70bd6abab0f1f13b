import type { Row, WireEdit } from '@/core/engine';
import { galleries, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { disconnect } from '../database/connection';
import { saveEdits } from '../actions/save-edits';
import { driftIn } from '../testing/drift';
import { type TestWorkspace, TESTER, testWorkspace } from '../testing/workspace';
import { undoOf } from './undo';

const model = galleries();
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
const undo = async (run: string) => undoOf(await workspace.load(), run);
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

test('edits, additions and deletions of a run are undone by another: all is as it was, totals too', async () => {
  const before = shape(await workspace.rows());
  const run = await save(
    edit(pots, { insuredValue: { amount: '9.00', currency: 'GBP' }, stage: null }),
    { kind: 'delete', type: 'loan', id: robes },
    { kind: 'create', type: 'loan', values: { title: 'Urn', exhibition: silk } },
  );
  const { edits, left } = await undo(run);
  expect(left).toEqual([]);
  const undone = await save(...edits);
  expect(shape(await workspace.rows())).toEqual(before);
  expect(await driftIn(workspace)).toEqual([]);
  // An undo is a run like any other, and can be undone.
  await save(...(await undo(undone)).edits);
  expect((await workspace.rows()).find(({ id }) => id === robes)!.deleted).toBe(true);
});

test('what was changed since stays as it is, and is told; the rest is written back', async () => {
  const run = await save(
    edit(pots, { insuredValue: { amount: '9.00', currency: 'GBP' }, dueBack: '2027-01-01' }),
    { kind: 'create', type: 'loan', id: uuid('41'), values: { title: 'Urn' } },
  );
  await save(
    edit(pots, { insuredValue: { amount: '10.00', currency: 'GBP' } }),
    edit(uuid('41'), { title: 'Vase' }),
  );
  const { edits, left } = await undo(run);
  expect(edits).toMatchObject([{ kind: 'edit', id: pots, values: { dueBack: null } }]);
  expect(edits[0]!.values).not.toHaveProperty('insuredValue');
  expect(left).toMatchObject([
    { title: 'Pots', fieldName: 'Insured value', reason: 'it was changed since' },
    { title: 'Vase', fieldName: null, reason: 'somebody changed it since it was made' },
  ]);
});

test('nothing is offered that would be refused: a link to what lies in the bin by now stays, and is told', async () => {
  const salt = uuid('12');
  await save({ kind: 'create', type: 'exhibition', id: salt, values: { title: 'Salt' } });
  const moved = await save(
    edit(pots, { exhibition: salt, dueBack: '2027-01-01' }),
    edit(robes, { exhibition: salt }),
  );
  await save({ kind: 'delete', type: 'exhibition', id: silk });
  const { edits, left } = await undo(moved);
  expect(left.map(({ title, reason }) => `${title}: ${reason}`).sort()).toEqual([
    'Pots: “Rivers of Silk”, which it named, is in the bin',
    'Robes: “Rivers of Silk”, which it named, is in the bin',
  ]);
  expect(edits).toMatchObject([{ kind: 'edit', id: pots, values: { dueBack: null } }]);
  await save(...edits);
});

test('what others hung under a record since isn’t taken along: it stays, and says what holds it', async () => {
  const [salt, urn] = [uuid('12'), uuid('41')];
  const made = await save(
    { kind: 'create', type: 'exhibition', id: salt, values: { title: 'Salt' } },
    { kind: 'create', type: 'loan', id: urn, values: { title: 'Urn', exhibition: salt } },
    edit(pots, { exhibition: salt }),
  );
  // What the run itself hung there goes, or goes back.
  expect((await undo(made)).left).toEqual([]);
  await save({ kind: 'create', type: 'artefact', values: { title: 'Lid', loan: urn } });
  const { edits, left } = await undo(made);
  expect(left.map(({ title, reason }) => `${title}: ${reason}`)).toEqual([
    'Urn: the Artefact “Lid” hangs under it now',
    'Salt: the Loan “Urn” hangs under it now',
  ]);
  expect(edits).toMatchObject([{ kind: 'edit', id: pots, values: { exhibition: silk } }]);
  await save(...edits);
  expect((await workspace.rows()).filter(({ deleted }) => deleted)).toEqual([]);
});

test('taking a rule live isn’t undone by writing values back', async () => {
  await expect(undo('2')).rejects.toMatchObject({ status: 409, code: 'undo.kind' });
  await expect(undo('999')).rejects.toMatchObject({ status: 404 });
});

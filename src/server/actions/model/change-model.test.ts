import type { WireEdit } from '@/core/engine';
import { type Field, type ModelChange, readModel } from '@/core/model';
import { ALL_RULES, GALLERIES, gbp, LOAN_ARTEFACTS, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import type { RollUp, Rule } from '@/core/rules';
import { changeState } from '@/server/actions/rules/change-state';
import { inSnapshot } from '@/server/store/session/transactions';
import { run } from '@/server/store/sql/sql';
import { disconnect } from '@/server/database/connection';
import { getHistory } from '@/server/queries/ledger/history';
import { listRecords } from '@/server/queries/records/list-records';
import { getRun } from '@/server/queries/ledger/runs';
import { Refusal } from '@/server/refusal';
import { driftIn } from '@/server/testing/drift';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { applyModelChanges, rehearseModel } from './change-model';
import { saveEdits } from '@/server/actions/records/save-edits';

const model = readModel(GALLERIES);
const [museum, silk, robes, pots, urn, fan] = ['1', '11', '21', '22', '23', '31'].map(uuid) as [
  ...[string, string, string, string, string, string],
];
const loan = (id: string, values: Record<string, unknown>) =>
  rowOf(model, 'loan', id, { exhibition: silk, lender: museum, ...(values as Record<string, never>) });

let workspace: TestWorkspace;
const open = async (rules: readonly Rule[] = ALL_RULES) =>
  void (workspace = await testWorkspace({
    model,
    rules,
    rows: [
      rowOf(model, 'institution', museum, { title: 'Kestrel Museum' }),
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      loan(robes, { title: 'Robes', stage: 'agreed', insuredValue: gbp('100.25') }),
      loan(pots, { title: 'Pots', stage: 'declined', insuredValue: gbp('7.00') }),
      loan(urn, { title: 'Urn', stage: null }),
      rowOf(model, 'artefact', fan, { title: '1,250', loan: robes }),
    ],
  }));
afterEach(() => workspace.remove());
afterAll(disconnect);

const apply = async (...changes: ModelChange[]) => {
  const { modelVersion } = await workspace.load();
  return applyModelChanges({ workspace: workspace.key, person: TESTER.id, changes, version: modelVersion });
};
const save = (...edits: WireEdit[]) => saveEdits({ workspace: workspace.key, person: TESTER.id, edits });
const valuesOf = async (field: string, type = 'loan') =>
  (await listRecords(await workspace.load(), { type, filter: {}, descending: false, limit: 50 })).records.map(
    ({ values }) => values[field],
  );
const refusal = async (work: Promise<unknown>): Promise<Refusal> => {
  const error = await work.then(
    () => null,
    (refused: unknown) => refused,
  );
  if (error instanceof Refusal) return error;
  throw error ?? new Error('It was accepted');
};
const field = (type: string, key: string): Field => model.field(type, key)!;
const to = (type: string, key: string, as: Partial<Field>): ModelChange => ({
  ...{ kind: 'changeField', type, to: { ...field(type, key), ...as } },
});

test('a type with fields and links is made, and its records are saved, listed and counted at once', async () => {
  await open();
  const { version } = await workspace.load().then(({ modelVersion }) => ({ version: modelVersion }));
  const changed = await apply(
    {
      kind: 'addType',
      type: {
        ...{ key: 'crate', name: 'Crate', plural: 'Crates', title: 'label' },
        fields: [
          { key: 'label', name: 'Label', type: { kind: 'text' }, required: true, unique: true },
          {
            key: 'cover',
            name: 'Cover',
            type: { kind: 'money', currency: 'GBP' },
            default: { amount: '5.00', currency: 'GBP' },
          },
        ],
      },
    },
    {
      ...{ kind: 'addField', type: 'artefact' },
      field: { key: 'crate', name: 'Crate', type: { kind: 'link', target: 'crate' }, otherEnd: 'Artefacts' },
    },
  );
  expect(changed.version).not.toBe(version);
  const { ids } = await save({ kind: 'create', type: 'crate', values: { label: 'C1' } });
  await save({ kind: 'edit', type: 'artefact', id: fan, values: { crate: ids[0] } });
  expect(await valuesOf('cover', 'crate')).toEqual([{ amount: '5.00', currency: 'GBP' }]);
  const taken = await refusal(save({ kind: 'create', type: 'crate', values: { label: 'C1' } }));
  expect(taken).toMatchObject({ status: 409, code: 'value.taken', message: expect.stringContaining('“C1”') });
  await save({ kind: 'create', type: 'crate', values: { label: 'C2', cover: null } });
  expect(await valuesOf('cover', 'crate')).toEqual([{ amount: '5.00', currency: 'GBP' }, null]);
});

test('a kind is changed: the rehearsal tells what converts and what is lost, the change does just that and logs it', async () => {
  await open([]);
  const texts: ModelChange = {
    ...{ kind: 'addField', type: 'loan' },
    field: { key: 'pieces', name: 'Pieces', type: { kind: 'text' } },
  };
  await apply(texts);
  for (const [id, pieces] of [
    [robes, '1,250'],
    [pots, 'a dozen'],
  ] as const)
    await save({ kind: 'edit', type: 'loan', id, values: { pieces } });
  const change: ModelChange = {
    ...{ kind: 'changeField', type: 'loan' },
    to: { key: 'pieces', name: 'Pieces', type: { kind: 'number', scale: 0 } },
  };
  const { steps, isPossible } = await rehearseModel(workspace.key, [change]);
  expect(isPossible).toBe(true);
  expect(steps).toMatchObject([
    { stored: 2, altered: 0, lost: 1, samples: [{ before: 'a dozen', after: 'empty', records: 1 }] },
  ]);
  expect(await valuesOf('pieces')).toEqual(['a dozen', '1,250', null]); // looking changed nothing
  const { run } = await apply(change);
  expect(await valuesOf('pieces')).toEqual([null, '1250', null]);
  const { entries } = await getHistory(await workspace.load(), { type: 'loan', id: pots });
  expect(entries[0]).toMatchObject({
    ...{ kind: 'model', person: TESTER.name },
    changes: [{ fieldName: 'Pieces', before: { text: 'a dozen' }, after: { text: 'empty' } }],
  });
  expect(await getRun(await workspace.load(), run)).toMatchObject({ kind: 'model' });
  await save({ kind: 'edit', type: 'loan', id: pots, values: { pieces: '12' } });
  expect(await valuesOf('pieces')).toEqual(['12', '1250', null]);
});

test('fewer places round what is stored, and rules over it are worked out again', async () => {
  await open([ruleOf(LOAN_ARTEFACTS, 1, 'Pieces')]);
  await apply(to('loan', 'artefactCount', { type: { kind: 'number', scale: 2 } }));
  expect(await valuesOf('artefactCount')).toEqual(['0.00', '1.00', '0.00']);
  expect(await driftIn(workspace)).toEqual([]);
  await save({ kind: 'create', type: 'artefact', values: { title: 'Comb', loan: pots } });
  expect(await valuesOf('artefactCount')).toEqual(['1.00', '1.00', '0.00']);
  expect(await driftIn(workspace)).toEqual([]);
});

test('an option that goes is replaced where records have it, and renaming one changes no record', async () => {
  await open([]);
  const { type } = field('loan', 'stage');
  const options = type.kind === 'choice' ? type.options : [];
  const left = options
    .filter(({ key }) => key !== 'declined')
    .map(({ key, name }) => ({ key, name: key === 'agreed' ? 'Signed' : name }));
  const change: ModelChange = {
    ...to('loan', 'stage', { type: { kind: 'choice', options: left } }),
    ...{ kind: 'changeField', replaced: { declined: 'returned' } },
  } as ModelChange;
  const { steps } = await rehearseModel(workspace.key, [change]);
  expect(steps).toMatchObject([
    { altered: 1, lost: 0, samples: [{ before: 'Declined', after: 'Returned', records: 1 }] },
  ]);
  await apply(change);
  expect(await valuesOf('stage')).toEqual(['returned', 'agreed', null]);
});

test('a field becomes required only where something is said for the empty ones, and unique only where nothing is twice', async () => {
  await open([]);
  const required = to('loan', 'stage', { required: true });
  const refused = await refusal(apply(required));
  expect(refused).toMatchObject({
    status: 409,
    code: 'model.empty',
    message: expect.stringContaining('1 record'),
  });
  await apply({ ...required, whereEmpty: 'requested' } as ModelChange);
  expect(await valuesOf('stage')).toEqual(['declined', 'agreed', 'requested']);
  const twice = await refusal(apply(to('loan', 'lender', { unique: true })));
  expect(twice).toMatchObject({ status: 409, code: 'model.twice' });
  await apply(to('loan', 'title', { unique: true }));
  expect(
    await refusal(save({ kind: 'edit', type: 'loan', id: urn, values: { title: 'Pots' } })),
  ).toMatchObject({
    ...{ code: 'value.taken', message: expect.stringContaining('Title: “Pots”') },
  });
  // The bin doesn't count, until somebody restores from it.
  await save({ kind: 'delete', type: 'loan', id: pots });
  await save({ kind: 'edit', type: 'loan', id: urn, values: { title: 'Pots' } });
  expect(await refusal(save({ kind: 'restore', type: 'loan', id: pots }))).toMatchObject({
    code: 'value.taken',
  });
});

test('what a rule depends on can’t go, and nothing of the change is done', async () => {
  await open();
  const before = await workspace.load();
  const refused = await refusal(
    apply(
      { kind: 'addField', type: 'loan', field: { key: 'note', name: 'Note', type: { kind: 'text' } } },
      { kind: 'removeField', type: 'loan', key: 'insuredValue' },
    ),
  );
  expect(refused).toMatchObject({ status: 409, code: 'model.rule' });
  expect(refused.parts.length).toBeGreaterThan(1);
  expect((await workspace.load()).modelVersion).toBe(before.modelVersion);
  expect(await valuesOf('note')).toEqual([undefined, undefined, undefined]);
});

test('a field that goes takes its values along; histories still tell of it', async () => {
  await open([]);
  await save({ kind: 'edit', type: 'loan', id: robes, values: { weight: '2.500' } });
  const change: ModelChange = { kind: 'removeField', type: 'loan', key: 'weight' };
  expect((await rehearseModel(workspace.key, [change])).steps).toMatchObject([{ stored: 1, lost: 1 }]);
  await apply(change);
  const { entries } = await getHistory(await workspace.load(), { type: 'loan', id: robes });
  expect(entries[0]!.changes[0]).toMatchObject({ fieldName: 'weight (removed)', after: { text: '2.500' } });
});

test('what a rule kept beside a field goes with it', async () => {
  const reacts: RollUp = {
    ...{ kind: 'rollUp', type: 'exhibition', target: 'open', aggregate: 'count', value: null },
    route: [{ direction: 'down', type: 'loan', link: 'exhibition' }],
    ...{ condition: null, whenNone: null, rounding: null, pace: 'withTheSave' },
    map: { rows: [{ operator: '>=', than: '5', writes: true }], otherwise: { kind: 'asItIs' } },
  };
  await open([ruleOf(reacts, 90)]);
  const [{ id }] = (await workspace.load()).live as [Rule];
  const beside = async () =>
    inSnapshot(async (transaction) => {
      const { schema } = await workspace.load();
      return run(
        transaction,
        `SELECT FROM information_schema.columns WHERE table_schema = $1 AND table_name = 'exhibition' AND starts_with(column_name, '_row_')`,
        [schema],
      );
    });
  expect(await beside()).toHaveLength(1);
  for (const state of ['paused', 'retired'] as const)
    await changeState({ workspace: workspace.key, person: TESTER.id, id, state });
  await apply({ kind: 'removeField', type: 'exhibition', key: 'open' });
  expect(await beside()).toHaveLength(0);
});

test('a change seen with another version of the model is refused, and two at once don’t mix', async () => {
  await open([]);
  const { modelVersion: version } = await workspace.load();
  const adding = (key: string) =>
    applyModelChanges({
      ...{ workspace: workspace.key, person: TESTER.id, version },
      changes: [{ kind: 'addField', type: 'loan', field: { key, name: key, type: { kind: 'text' } } }],
    });
  const results = await Promise.allSettled([adding('one'), adding('two')]);
  expect(results.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
  const [failed] = results.flatMap((result) =>
    result.status === 'rejected' ? [result.reason as Refusal] : [],
  );
  expect(failed).toMatchObject({ status: 409, code: 'model.version' });
});

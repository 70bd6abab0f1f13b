import type { Expression } from '@/core/expression';
import type { Pilot, RuleDefinition } from '@/core/rules';
import { fieldOf, gbp, INSURED_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import { OPEN, PILOTED, pots, robes, salt, silk, SILK } from '@/core/testing/piloted';
import { readModel } from '@/core/model';
import { disconnect } from '@/server/database/connection';
import { liveThen } from '@/server/queries/ledger/live-then';
import { getExplanation } from '@/server/queries/records/explanation';
import { inSnapshot } from '@/server/store/session/transactions';
import { run } from '@/server/store/sql/sql';
import { driftIn } from '@/server/testing/drift';
import { getRecord } from '@/server/queries/records/records';
import { getRule, listKeepers } from '@/server/queries/rules/rules';
import { ruleVersions } from '@/server/queries/rules/rule-versions';
import { loadWorkspace } from '@/server/store/session/workspace';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { applyModelChanges, rehearseModel } from '@/server/actions/model/change-model';
import { exportBundle } from '@/server/actions/bundles/export-bundle';
import { importBundle } from '@/server/actions/bundles/import-bundle';
import { removeWorkspace } from '@/server/actions/workspaces/make-workspace';
import { previewFile, previewLive } from '@/server/actions/rules/preview-live';
import { saveEdits } from '@/server/actions/records/save-edits';
import { changeRule, createRule } from '@/server/actions/rules/write-rules';
import { changeState } from '@/server/actions/rules/change-state';

const model = readModel(PILOTED, '2026-03-14');
let workspace: TestWorkspace;
let id: string;

beforeEach(async () => {
  const loan = (of: string, title: string, exhibition: string, amount: number) =>
    rowOf(model, 'loan', of, { title, exhibition, stage: 'agreed', insuredValue: gbp(amount) });
  workspace = await testWorkspace({
    ...{ model, rules: [] },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      rowOf(model, 'exhibition', salt, { title: 'Salt Roads', open: true }),
      loan(robes, 'Robes', silk, 100),
      loan(pots, 'Pots', salt, 7),
    ],
  });
  id = await createRule({ ...by(), definition: INSURED_TOTAL, name: 'Insured total' });
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const live = (pilot: Pilot | null = null) => changeState({ ...by(), id, state: 'live', pilot });
const totals = async () => {
  const rows = await workspace.rows();
  return [silk, salt].map((of) => {
    const value = rows.find((row) => row.id === of)!.values.insuredTotal as { amount: object } | null;
    return value && String(value.amount);
  });
};
const lastRun = () =>
  inSnapshot(async (transaction) => {
    const { schema } = await workspace.load();
    const [last] = await run<{ id: string }>(transaction, `SELECT max(id)::text AS id FROM "${schema}"._run`);
    return last!.id;
  });
const enter = (of: string, amount: string) =>
  saveEdits({
    ...by(),
    edits: [
      { kind: 'edit', type: 'exhibition', id: of, values: { insuredTotal: { amount, currency: 'GBP' } } },
    ],
  });

test('a pilot says what it would change, fills that, and leaves the others to people', async () => {
  const [effect] = (await previewLive(workspace.key, id, { pilot: SILK })).effects;
  expect(effect).toMatchObject({ total: 2, changed: 1, largest: [{ title: 'Rivers of Silk' }] });
  expect((await live(SILK)).written).toEqual([{ rule: id, records: 1 }]);
  expect(await totals()).toEqual(['100', null]);
  await enter(salt, '50');
  expect(await totals()).toEqual(['100', '50']);
  expect((await refusal(enter(silk, '50'))).parts[0]).toMatchObject({ code: 'edit.kept' });
  const loaded = await loadWorkspace(workspace.key);
  expect(await getRule(loaded, id)).toMatchObject({
    ...{ state: 'live', pilot: { scope: SILK, words: 'Rivers of Silk' } },
  });
  expect(await listKeepers(loaded)).toMatchObject([{ field: 'insuredTotal', isInStep: true }]);
  expect((await getRecord(loaded, 'exhibition', silk)).claimed).toEqual(['insuredTotal']);
  expect((await getRecord(loaded, 'exhibition', salt)).claimed).toEqual([]);
});

test('what it would change is spread out, and all of it goes into a file', async () => {
  const [effect] = (await previewLive(workspace.key, id)).effects;
  expect(effect!.spread).toEqual({
    of: 'differences',
    bars: [
      { label: '0.00 GBP to 20.00 GBP', records: 1 },
      ...['20', '40', '60', '80'].map((from) => ({
        label: `${from}.00 GBP to ${Number(from) + 20}.00 GBP`,
        records: 0,
      })),
      { label: '100.00 GBP to 120.00 GBP', records: 1 },
    ],
    others: 0,
  });
  const lines = (await previewFile(workspace.key, id)).trim().split('\r\n');
  expect(lines).toEqual([
    'Rule,Type,Record,Field,Before,After,Note,id',
    `Insured total,Exhibition,Rivers of Silk,Insured total,,100.00 GBP,,${silk}`,
    `Insured total,Exhibition,Salt Roads,Insured total,,7.00 GBP,,${salt}`,
  ]);
  expect((await previewFile(workspace.key, id, { pilot: SILK })).trim().split('\r\n')).toHaveLength(2);
});

test('where fields hold no amounts what is alike is counted: from what to what', async () => {
  const definition: RuleDefinition = {
    ...{ kind: 'cascade', type: 'exhibition', condition: null, moment: 'inStep', pace: 'withTheSave' },
    route: [{ direction: 'down', type: 'loan', link: 'exhibition' }],
    assignments: [
      {
        target: 'stage',
        value: { kind: 'expression', expression: { kind: 'constant', value: 'requested' } },
      },
    ],
  };
  const stages = await createRule({ ...by(), definition });
  const [effect] = (await previewLive(workspace.key, stages)).effects;
  expect(effect!.spread).toEqual({
    of: 'changes',
    bars: [{ label: 'Agreed → Requested', records: 2 }],
    others: 0,
  });
});

test('it is widened, taken live for all, and can’t be narrowed again while it is live', async () => {
  await live(SILK);
  await live(OPEN);
  expect(await totals()).toEqual(['100', '7']);
  await enter(silk, '1');
  expect((await refusal(live(OPEN))).code).toBe('rule.live');
  await live();
  expect(await totals()).toEqual(['100', '7']);
  expect((await refusal(live(SILK))).code).toBe('rule.pilotLive');
  expect((await refusal(previewLive(workspace.key, id, { pilot: SILK }))).code).toBe('rule.pilotLive');
  const [version] = await ruleVersions(workspace.key, id);
  expect(version!.takenLive.map(({ pilot }) => pilot)).toEqual([
    ...[null, 'those in “Open now”', 'Rivers of Silk'],
  ]);
});

test('paused it is no pilot any more', async () => {
  await live(SILK);
  await changeState({ ...by(), id, state: 'paused' });
  expect(await getRule(await loadWorkspace(workspace.key), id)).toMatchObject({
    state: 'paused',
    pilot: null,
  });
  await enter(silk, '3');
  await live();
  expect(await totals()).toEqual(['100', '7']);
});

test('what can’t be a pilot is refused, and a selection that one runs for can’t be removed', async () => {
  const code = async (work: Promise<unknown>) => (await refusal(work)).code;
  expect(await code(live({ kind: 'selection', selection: 'gone' }))).toBe('pilot.selection');
  expect(await code(live({ kind: 'records', ids: [] }))).toBe('pilot.records');
  await live(OPEN);
  const changes = [{ kind: 'removeSelection', key: 'open' }] as const;
  const rehearsed = await rehearseModel(workspace.key, changes);
  expect(rehearsed.isPossible).toBe(false);
  expect(
    await code(applyModelChanges({ ...by(), changes, version: (await workspace.load()).modelVersion })),
  ).not.toBe('');
  expect(await totals()).toEqual([null, '7']);
});

test('a bundle carries it', async () => {
  await live(SILK);
  let text = '';
  for await (const piece of exportBundle(workspace.key, true)) text += piece;
  const copy = await importBundle(text, 'A copy of it', TESTER.id);
  try {
    const [rule] = (await loadWorkspace(copy.key)).live;
    expect(rule).toMatchObject({ pilot: SILK });
    let again = '';
    for await (const piece of exportBundle(copy.key, true)) again += piece;
    expect(JSON.parse(again)).toMatchObject({ rules: [{ state: 'live', pilot: SILK }] });
  } finally {
    await removeWorkspace(copy.key);
  }
});

test('other rules’ proofs and plans stand beside it', async () => {
  await live(SILK);
  const other = await createRule({
    ...by(),
    definition: ruleOf({ ...INSURED_TOTAL, target: 'averageInsured', aggregate: 'average' }, 1).definition,
  });
  await changeState({ ...by(), id: other, state: 'live' });
  expect(await totals()).toEqual(['100', null]);
});

describe('a change tried beside its live version', () => {
  const largest = () =>
    changeRule({ ...by(), id, version: 2, definition: { ...INSURED_TOTAL, aggregate: 'maximum' } });
  const scarves = uuid('23');
  const versionsOf = async () =>
    new Map((await ruleVersions(workspace.key, id)).map(({ id: version, number }) => [version, number]));

  beforeEach(async () => {
    await saveEdits({
      ...by(),
      edits: [
        {
          ...{ kind: 'create', type: 'loan', id: scarves },
          values: {
            ...{ title: 'Scarves', exhibition: salt, stage: 'agreed' },
            insuredValue: { amount: '3', currency: 'GBP' },
          },
        },
      ],
    });
    await live();
    await largest();
  });

  test('it runs on the records of the pilot; on all others the live version goes on', async () => {
    expect(await totals()).toEqual(['100', '10']);
    const { effects } = await previewLive(workspace.key, id, { pilot: OPEN });
    expect(effects).toMatchObject([{ changed: 1, total: 1, largest: [{ title: 'Salt Roads' }] }]);
    expect((await live(OPEN)).written).toEqual([{ rule: id, records: 1 }]);
    expect(await totals()).toEqual(['100', '7']);
    expect(await getRule(await loadWorkspace(workspace.key), id)).toMatchObject({
      ...{ state: 'live', hasChangesNotLive: true, liveDefinition: { aggregate: 'sum' } },
      pilot: { scope: OPEN, words: 'those in “Open now”', tried: { aggregate: 'maximum' } },
    });
    const [version, before] = await ruleVersions(workspace.key, id);
    expect([version, before]).toMatchObject([
      { isTried: true, isLive: false },
      { isTried: false, isLive: true },
    ]);
    // Nobody enters the field: on each record one of the two keeps it.
    for (const record of [silk, salt])
      expect((await refusal(enter(record, '1'))).parts[0]).toMatchObject({ code: 'edit.kept' });
  });

  test('each value opens by the version that gives it, and the ledger names that version', async () => {
    await live(OPEN);
    const loaded = await loadWorkspace(workspace.key);
    const opened = (of: string) =>
      getExplanation(loaded, {
        ...{ type: 'exhibition', id: of, field: 'insuredTotal' },
        from: 0,
        limit: 10,
      });
    expect((await opened(silk)).rule.sentence).toMatch(/the sum of/);
    expect((await opened(salt)).rule.sentence).toMatch(/the maximum of/);
    await saveEdits({
      ...by(),
      edits: [robes, pots].map((of) => ({
        ...{ kind: 'edit' as const, type: 'loan', id: of },
        values: { insuredValue: { amount: '20', currency: 'GBP' } },
      })),
    });
    expect(await totals()).toEqual(['20', '20']);
    const numbers = await versionsOf();
    const entries = await inSnapshot((transaction) =>
      run<{ record: string; version: string }>(
        transaction,
        `SELECT record::text, sources -> 'insuredTotal' ->> 'ruleVersion' AS version FROM "${loaded.schema}"._ledger
          WHERE sources ? 'insuredTotal' AND run = (SELECT max(id) FROM "${loaded.schema}"._run) ORDER BY record`,
      ),
    );
    expect(entries.map(({ version }) => numbers.get(version))).toEqual([1, 2]);
  });

  test('a record that comes into the selection, or leaves it, goes over to the other version', async () => {
    await live(OPEN);
    await saveEdits({
      ...by(),
      edits: [{ kind: 'edit', type: 'exhibition', id: salt, values: { open: false } }],
    });
    expect(await totals()).toEqual(['100', '10']);
    await saveEdits({
      ...by(),
      edits: [{ kind: 'edit', type: 'exhibition', id: salt, values: { open: true } }],
    });
    expect(await totals()).toEqual(['100', '7']);
  });

  test('the pilot ends: all is as it was live; or its change goes live for all', async () => {
    await live(OPEN);
    const ended = await changeState({ ...by(), id, state: 'live', endsPilot: true });
    expect(ended.written).toEqual([{ rule: id, records: 1 }]);
    expect(await totals()).toEqual(['100', '10']);
    expect(await getRule(await loadWorkspace(workspace.key), id)).toMatchObject({
      ...{ state: 'live', pilot: null, hasChangesNotLive: true },
    });
    expect((await refusal(changeState({ ...by(), id, state: 'live', endsPilot: true }))).code).toBe(
      'rule.noPilot',
    );
    await live(SILK);
    expect((await refusal(live(SILK))).code).toBe('rule.live');
    await live();
    expect(await totals()).toEqual(['100', '7']);
    expect(await getRule(await loadWorkspace(workspace.key), id)).toMatchObject({
      ...{ state: 'live', pilot: null, hasChangesNotLive: false },
    });
    // What is kept beside the values is right again: by difference from here on.
    await saveEdits({
      ...by(),
      edits: [
        {
          kind: 'edit',
          type: 'loan',
          id: scarves,
          values: { insuredValue: { amount: '30', currency: 'GBP' } },
        },
      ],
    });
    expect(await totals()).toEqual(['100', '30']);
    expect(await driftIn(workspace)).toEqual([]);
  });

  test('paused, neither runs any more', async () => {
    await live(OPEN);
    await changeState({ ...by(), id, state: 'paused' });
    await enter(salt, '1');
    await enter(silk, '2');
    expect(await totals()).toEqual(['2', '1']);
  });

  test('what was live for an earlier run is told as it was: both versions', async () => {
    const before = await lastRun();
    await live(OPEN);
    await saveEdits({
      ...by(),
      edits: [{ kind: 'edit', type: 'exhibition', id: silk, values: { title: 'Silk' } }],
    });
    const then = await lastRun();
    await live();
    const loaded = await loadWorkspace(workspace.key);
    const rulesOf = (of: string) =>
      inSnapshot(async (transaction) =>
        (await liveThen(transaction, loaded, of)).plan.rules.map((rule) => [
          rule.kind === 'rollUp' && rule.aggregate,
          rule.half?.isOutside,
        ]),
      );
    expect(await rulesOf(before)).toEqual([['sum', undefined]]);
    expect(await rulesOf(then)).toEqual([
      ['maximum', false],
      ['sum', true],
    ]);
  });

  test('it goes with a bundle', async () => {
    await live(OPEN);
    let text = '';
    for await (const piece of exportBundle(workspace.key, true)) text += piece;
    expect(JSON.parse(text)).toMatchObject({
      rules: [
        {
          ...{ definition: { aggregate: 'maximum' }, live: { aggregate: 'sum' } },
          ...{ tried: { aggregate: 'maximum' }, pilot: OPEN },
        },
      ],
    });
    const copy = await importBundle(text, 'A copy of it', TESTER.id);
    try {
      expect((await loadWorkspace(copy.key)).live).toMatchObject([
        { definition: { aggregate: 'maximum' }, pilot: OPEN, beside: { definition: { aggregate: 'sum' } } },
      ]);
    } finally {
      await removeWorkspace(copy.key);
    }
  });

  test('a change of the model is rehearsed on both, and what it fills is right on both', async () => {
    await live(OPEN);
    const condition: Expression = {
      ...{ kind: 'compare', operator: '!=', left: fieldOf('open') },
      right: { kind: 'constant', value: true },
    };
    const to = { key: 'open', name: 'Closed now', type: 'exhibition', condition };
    const changes = [{ kind: 'changeSelection' as const, to }];
    expect((await rehearseModel(workspace.key, changes)).isPossible).toBe(true);
    const version = (await workspace.load()).modelVersion;
    await applyModelChanges({ ...by(), changes, version });
    expect(await driftIn(workspace)).toEqual([]);
  });

  test('what can’t run beside its live version is refused before anything is changed', async () => {
    await changeRule({ ...by(), id, version: 3, definition: { ...INSURED_TOTAL, target: 'averageInsured' } });
    const refused = await refusal(live(OPEN));
    expect(refused.message).toMatch(/other fields than the live version/);
    expect(await totals()).toEqual(['100', '10']);
  });
});

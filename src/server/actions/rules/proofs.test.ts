import type { RollUp } from '@/core/rules';
import { galleries, gbp, INSURED_TOTAL, LENT_TOTAL, rowOf, ruleOf, uuid } from '@/core/testing/galleries';
import type { Expectation, FamilyData } from '@/core/verify';
import { disconnect } from '@/server/database/connection';
import { getFamily } from '@/server/queries/records/family';
import { loadWorkspace } from '@/server/store/session/workspace';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { applyModelChanges } from '@/server/actions/model/change-model';
import { getProof, proofsOf } from '@/server/queries/rules/proofs';
import { proofStandings } from '@/server/queries/rules/proof-standings';
import type * as ProofWork from '@/server/workers/proofs';
import { proofsHeld } from '@/server/workers/proofs';
import { ruleVersions } from '@/server/queries/rules/rule-versions';
import { previewLive } from './preview-live';
import { changeProof, keepProof, removeProof } from './proofs';
import { type NewProof } from '@/server/forms/types';
import { saveEdits } from '@/server/actions/records/save-edits';
import { changeRule, createRule } from './write-rules';
import { changeState } from './change-state';

jest.mock('@/server/workers/proofs', () => {
  const work = jest.requireActual<typeof ProofWork>('@/server/workers/proofs');
  return { ...work, proofsHeld: jest.fn(work.proofsHeld) };
});

const model = galleries();
const [silk, robes, pots] = [uuid('11'), uuid('21'), uuid('22')];
let workspace: TestWorkspace;
let family: FamilyData;
let ruleId: string;

beforeEach(async () => {
  const loan = (id: string, title: string, stage: string, amount: number) =>
    rowOf(model, 'loan', id, { title, exhibition: silk, stage, insuredValue: gbp(amount) });
  workspace = await testWorkspace({
    ...{ model, rules: [ruleOf(INSURED_TOTAL, 1)] },
    rows: [
      rowOf(model, 'exhibition', silk, { title: 'Rivers of Silk' }),
      loan(robes, 'Robes', 'agreed', 100),
      loan(pots, 'Pots', 'agreed', 7),
    ],
  });
  ruleId = workspace.rules[0]!;
  family = await getFamily(await loadWorkspace(workspace.key), 'exhibition', silk);
});
afterEach(() => workspace.remove());
afterAll(disconnect);

const by = () => ({ workspace: workspace.key, person: TESTER.id });
const becomes = (amount: string): Expectation => ({
  ...{ kind: 'becomes', type: 'exhibition', id: silk, field: 'insuredTotal' },
  value: { amount, currency: 'GBP' },
});
const declined = (more: Partial<NewProof> = {}): NewProof => ({
  ...{ rule: ruleId, name: ' A declined loan ', family, day: '2027-02-14' },
  runs: [[{ kind: 'edit', type: 'loan', id: pots, values: { stage: 'declined' } }]],
  expectations: [becomes('100')],
  ...more,
});
const results = async () => (await proofsOf(workspace.key, ruleId)).map(({ result }) => result.kind);

test('a proof is a copy with its day: what becomes of the data doesn’t change it, a change of its rule does', async () => {
  const settings = [{ run: 0, person: TESTER.id, day: '2027-02-15' }];
  const { proof, result } = await keepProof(by(), declined({ settings }));
  expect(result).toEqual({ kind: 'held' });
  expect(proof).toMatchObject({
    name: 'A declined loan',
    day: '2027-02-14',
    person: TESTER.name,
    version: 1,
  });
  await saveEdits({
    ...by(),
    edits: [
      { kind: 'edit', type: 'loan', id: robes, values: { insuredValue: { amount: '5', currency: 'GBP' } } },
    ],
  });
  expect(await results()).toEqual(['held']);
  const kept = await getProof(workspace.key, proof.id);
  expect(kept).toMatchObject({ day: '2027-02-14', runs: declined().runs, settings });
  expect(kept.people).toContain(TESTER.id);

  // Whatever the stage: with the latest version, although it isn't live yet, the declined loan counts too.
  await changeRule({
    ...by(),
    ...{ id: ruleId, version: 2, definition: { ...INSURED_TOTAL, condition: null } },
  });
  expect(await proofsOf(workspace.key, ruleId)).toMatchObject([
    {
      result: {
        kind: 'missed',
        missed: [{ expectation: becomes('100'), found: { amount: '107.00', currency: 'GBP' } }],
      },
      says: ['Insured total of Rivers of Silk should become 100.00 GBP; it was 107.00 GBP.'],
    },
  ]);
});

test('what it expects can be trimmed and its name changed, by one at a time; it can be removed', async () => {
  const { proof } = await keepProof(by(), declined());
  const changed = await changeProof(by(), proof.id, {
    version: 1,
    name: 'Other',
    expectations: [becomes('99')],
  });
  expect(changed).toMatchObject({ proof: { name: 'Other', version: 2 }, result: { kind: 'missed' } });
  expect(await refusal(changeProof(by(), proof.id, { version: 1, name: 'Mine' }))).toMatchObject({
    ...{ status: 409, code: 'proof.version' },
  });
  await keepProof(by(), declined());
  expect(await refusal(keepProof(by(), declined({ name: 'OTHER' })))).toMatchObject({ code: 'proof.taken' });
  await removeProof(by(), proof.id);
  expect(await results()).toEqual(['held']);
  expect(await refusal(getProof(workspace.key, proof.id))).toMatchObject({
    status: 404,
    code: 'proof.unknown',
  });
});

test.each<[string, (is: NewProof) => Partial<NewProof>]>([
  ['proof.day', () => ({ day: '2027-02-30' })],
  ['proof.day', () => ({ settings: [{ run: 0, day: '2027-02-30' }] })],
  ['proof.person', () => ({ settings: [{ run: 0, person: uuid('ff') }] })],
  ['rule.unknown', () => ({ rule: uuid('77') })],
  ['proof.unfit', () => ({ expectations: [{ ...becomes('1'), field: 'gone' } as Expectation] })],
  ['proof.unfit', () => ({ expectations: [{ ...becomes('1'), value: 'much' } as Expectation] })],
  ['proof.unfit', (is) => ({ family: { ...is.family, members: [robes] } })],
  ['proof.name', () => ({ name: ' ' })],
])('%s is refused, and nothing is kept', async (code, wrong) => {
  expect(await refusal(keepProof(by(), declined(wrong(declined()))))).toMatchObject({ code });
  expect(await results()).toEqual([]);
});

test('a proof whose field is gone says so, and is still there to be read', async () => {
  const { proof } = await keepProof(by(), {
    ...declined(),
    expectations: [{ ...becomes('0'), field: 'averageInsured' } as Expectation],
  });
  const { modelVersion } = await loadWorkspace(workspace.key);
  await applyModelChanges({
    ...{ ...by(), version: modelVersion, note: '' },
    changes: [{ kind: 'removeField', type: 'exhibition', key: 'averageInsured' }],
  });
  expect(await proofsOf(workspace.key, ruleId)).toMatchObject([
    { result: { kind: 'unfit' }, says: [expect.stringContaining('isn’t in the model any more')] },
  ]);
  expect(await getProof(workspace.key, proof.id)).toMatchObject({ name: 'A declined loan' });
});

test('how proofs stand is worked out once for all who ask, and again only for those that are others', async () => {
  const asked = jest.mocked(proofsHeld);
  await keepProof(by(), declined());
  asked.mockClear();
  const ask = () => proofStandings(workspace.key);
  const [one, other] = await Promise.all([ask(), ask()]);
  expect(one).toEqual(other);
  expect(await ask()).toEqual(one);
  expect(asked.mock.calls.map(([{ proofs }]) => proofs.length)).toEqual([1]);
  const { proof } = await keepProof(by(), { ...declined(), name: 'Another' });
  expect(await ask()).toMatchObject([{ proofs: 2, held: 2 }]);
  expect(asked.mock.calls.slice(1).map(([{ proofs }]) => proofs.map(({ id }) => id))).toEqual([[proof.id]]);
});

describe('taking a rule live', () => {
  const change = (condition: RollUp['condition']) =>
    changeRule({ ...by(), id: ruleId, version: 2, definition: { ...INSURED_TOTAL, condition } });
  const live = (reason?: string) =>
    changeState({ ...by(), id: ruleId, state: 'live', ...(reason === undefined ? {} : { reason }) });

  test('asks why where a proof doesn’t hold; the reason is kept with the version, and the data stays until then', async () => {
    const { proof } = await keepProof(by(), declined());
    const kept = [{ id: proof.id, version: 1 }];
    expect(await proofStandings(workspace.key)).toEqual([{ rule: ruleId, proofs: 1, held: 1, kept }]);
    await change(null);
    expect(await proofStandings(workspace.key)).toEqual([{ rule: ruleId, proofs: 1, held: 0, kept }]);
    const before = await workspace.rows();
    for (const reason of [undefined, '', '  ']) {
      const refused = await refusal(live(reason));
      expect(refused.message).toContain('A proof doesn’t hold with it: “A declined loan” of ');
      expect(refused).toMatchObject({ code: 'rule.proofs', parts: [{ code: 'proof.missed', rule: ruleId }] });
    }
    expect(await workspace.rows()).toEqual(before);
    expect((await previewLive(workspace.key, ruleId)).proofs).toMatchObject({
      ...{ proofs: 1, held: 0 },
      missed: [{ name: 'A declined loan', rule: { id: ruleId } }],
    });
    await live(' Declined ones are insured too now ');
    const [newest, first] = await ruleVersions(workspace.key, ruleId);
    expect(newest).toMatchObject({
      ...{ number: 2, isLive: true, isLatest: true, person: TESTER.name },
      takenLive: [{ proofs: 1, held: 0, reason: 'Declined ones are insured too now', person: TESTER.name }],
    });
    expect(first).toMatchObject({ number: 1, isLive: false, isLatest: false });
    expect(first!.sentence).toContain('where Stage is Agreed');
  });

  test('needs no reason where all hold, or where there is none', async () => {
    await keepProof(by(), declined());
    await change({ kind: 'group', operator: 'all', of: [INSURED_TOTAL.condition!] });
    await live('of no account');
    const [newest] = await ruleVersions(workspace.key, ruleId);
    expect(newest!.takenLive).toMatchObject([{ proofs: 1, held: 1, reason: null }]);
  });

  test('proofs of other live rules count too, unless they failed before', async () => {
    const lent = await createRule({ ...by(), definition: LENT_TOTAL, name: 'Lent total' });
    await changeState({ ...by(), id: lent, state: 'live' });
    await keepProof(by(), { ...declined(), rule: lent });
    await keepProof(by(), { ...declined(), rule: lent, name: 'Wrong anyway', expectations: [becomes('1')] });
    await change(null);
    const refused = await refusal(live());
    expect(refused.parts.map(({ message }) => message)).toEqual([
      expect.stringContaining('“A declined loan” of “Lent total”'),
    ]);
  });
});

import { galleries, gbp, INSURED_TOTAL, rowOf, uuid } from '@/core/testing/galleries';
import { QueryTypes } from 'sequelize';
import { database, disconnect } from '@/server/database/connection';
import { exportBundle } from '@/server/actions/bundles/export-bundle';
import { mergeBundle } from '@/server/actions/bundles/merge-bundle';
import { applyModelChanges } from '@/server/actions/model/change-model';
import { changeState, takeLiveTogether } from '@/server/actions/rules/change-state';
import { changeRule, createRule } from '@/server/actions/rules/write-rules';
import { changeAccess } from '@/server/actions/workspaces/members';
import { wantTwoPeople } from '@/server/actions/workspaces/two-people';
import { getRule } from '@/server/queries/rules/rules';
import { refusal } from '@/server/testing/refusal';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { askApproval, decideApproval, listApprovals } from './approvals';

let workspace: TestWorkspace;
const otto = '00000000-0000-7000-8000-0000000007a0';
const [museum, silk, loan] = [uuid('1'), uuid('11'), uuid('21')];
const own = () => ({ workspace: workspace.key, person: TESTER.id });
const other = () => ({ workspace: workspace.key, person: otto });

beforeAll(async () => {
  const model = galleries();
  const rows = [
    rowOf(model, 'institution', museum, {}),
    rowOf(model, 'exhibition', silk, { venue: museum }),
    rowOf(model, 'loan', loan, { exhibition: silk, stage: 'agreed', insuredValue: gbp('7') }),
  ];
  workspace = await testWorkspace({ model, rows, rules: [] });
  await database().query(
    `INSERT INTO person (id, name, email, role) VALUES ($1, 'Otto Other', $2, 'Tester') ON CONFLICT DO NOTHING`,
    { bind: [otto, `otto-${process.pid}@choir.example`] },
  );
  await database().query(
    `INSERT INTO membership (workspace_id, person_id, role) SELECT id, $1, 'administrator' FROM workspace WHERE key = $2`,
    { bind: [otto, workspace.key] },
  );
  await wantTwoPeople(own(), ['rules', 'model', 'bundle']);
});
afterAll(async () => {
  await workspace.remove();
  await database().query('DELETE FROM person WHERE id = $1', { bind: [otto], type: QueryTypes.SELECT });
  await disconnect();
});

const stateOf = async (id: string) => (await getRule(await workspace.load(), id)).state;
const ruleOf = (by: ReturnType<typeof own>, name: string) =>
  createRule({ ...by, definition: INSURED_TOTAL, note: '', name });

test('a rule goes live once somebody else approves exactly that version, and as who asked for it', async () => {
  const id = await ruleOf(own(), 'Insured total');
  const live = { state: 'live' as const };
  const needed = await refusal(changeState({ ...own(), id, ...live }));
  expect(needed).toMatchObject({ status: 409, code: 'approval.needed' });
  expect((await refusal(takeLiveTogether({ ...own(), ids: [id] }))).code).toBe('approval.needed');
  const asked = await askApproval(own(), { route: `rules/${id}/state`, body: live, note: 'For March' });
  expect(asked).toMatchObject({
    ...{ kind: 'rules', rules: [id], state: 'waiting', isMoved: false, note: 'For March' },
    ...{
      askedBy: { name: TESTER.name },
      words: ['“Insured total” goes live', expect.stringMatching(/^On every Exhibition, keep Insured total/)],
    },
  });
  const approve = { decision: 'approve' as const };
  expect((await refusal(decideApproval(own(), asked.id, approve))).code).toBe('approval.own');
  // Changed after it was asked for: another thing.
  const { version } = await getRule(await workspace.load(), id);
  await changeRule({
    ...own(),
    id,
    version,
    definition: { ...INSURED_TOTAL, aggregate: 'maximum' } as never,
  });
  expect((await listApprovals(workspace.key))[0]).toMatchObject({ id: asked.id, isMoved: true });
  expect((await refusal(decideApproval(other(), asked.id, approve))).code).toBe('approval.moved');
  expect(await stateOf(id)).toBe('draft');
  expect(await decideApproval(own(), asked.id, { decision: 'withdraw' })).toMatchObject({
    state: 'withdrawn',
  });
  expect((await refusal(decideApproval(other(), asked.id, approve))).code).toBe('approval.decided');

  const again = await askApproval(own(), { route: 'live-rules', body: { rules: [id] } });
  expect(await decideApproval(other(), again.id, approve)).toMatchObject({
    ...{ state: 'done', decidedBy: 'Otto Other' },
  });
  expect(await stateOf(id)).toBe('live');
  const [run] = await database().query<{ person: string }>(
    `SELECT person::text FROM "${(await workspace.load()).schema}"._run WHERE kind = 'live' ORDER BY id DESC LIMIT 1`,
    { type: QueryTypes.SELECT },
  );
  expect(run).toEqual({ person: TESTER.id });
  await changeState({ ...own(), id, state: 'paused' });
});

test('whoever wrote a version doesn’t approve it, though somebody else asked; refusing says why', async () => {
  const id = await ruleOf(other(), 'Written by Otto');
  const asked = await askApproval(own(), { route: 'live-rules', body: { rules: [id] } });
  const approved = decideApproval(other(), asked.id, { decision: 'approve' });
  expect((await refusal(approved)).code).toBe('approval.own');
  expect((await refusal(decideApproval(other(), asked.id, { decision: 'withdraw' }))).code).toBe(
    'approval.own',
  );
  expect((await refusal(decideApproval(other(), asked.id, { decision: 'refuse' }))).code).toBe(
    'approval.reason',
  );
  const reason = 'Cancelled loans count too.';
  expect(await decideApproval(other(), asked.id, { decision: 'refuse', reason })).toMatchObject({
    ...{ state: 'refused', reason, decidedBy: 'Otto Other' },
  });
  expect(await stateOf(id)).toBe('draft');
});

test('what somebody asked for who may no longer ask for it isn’t done in their name', async () => {
  const by = { workspace: workspace.key, person: TESTER.id, isOperator: false };
  const field = { key: 'remark', name: 'Remark', type: { kind: 'longText' as const } };
  const changes = [{ kind: 'addField' as const, type: 'loan', field }];
  const { modelVersion: version } = await workspace.load();
  const asked = await askApproval(other(), { route: 'model-changes', body: { changes, version } });
  await changeAccess(by, otto, 'editor');
  const approving = decideApproval(own(), asked.id, { decision: 'approve' });
  expect((await refusal(approving)).code).toBe('approval.moved');
  await changeAccess(by, otto, 'administrator');
  await decideApproval(other(), asked.id, { decision: 'withdraw' });
});

test('changes of the model and bundles come in the same way; what can’t be done isn’t asked for', async () => {
  const field = { key: 'note', name: 'Note', type: { kind: 'longText' as const } };
  const changes = [{ kind: 'addField' as const, type: 'loan', field }];
  const { modelVersion: version } = await workspace.load();
  expect((await refusal(applyModelChanges({ ...own(), changes, version }))).code).toBe('approval.needed');
  const body = { changes, version };
  const twice = { changes: [...changes, ...changes], version };
  expect((await refusal(askApproval(own(), { route: 'model-changes', body: twice }))).status).toBe(422);
  const asked = await askApproval(own(), { route: 'model-changes', body });
  expect(asked.words).toEqual(['Field added: Note']);
  await decideApproval(other(), asked.id, { decision: 'approve' });
  const after = await workspace.load();
  expect(after.model.types.find(({ key }) => key === 'loan')?.fields.map(({ key }) => key)).toContain('note');
  // The same once more: by then the model is another.
  const stale = await refusal(
    askApproval(own(), { route: 'model-changes', body }).then(({ id }) =>
      decideApproval(other(), id, { decision: 'approve' }),
    ),
  );
  expect(stale.status).toBeGreaterThanOrEqual(409);

  let bundle = '';
  for await (const piece of exportBundle(workspace.key, false)) bundle += piece;
  const merge = { bundle, chosen: [], version: after.modelVersion };
  expect((await refusal(mergeBundle(own(), merge))).code).toBe('approval.needed');
  const coming = await askApproval(own(), { route: 'bundle-merges', body: merge });
  expect(await decideApproval(other(), coming.id, { decision: 'approve' })).toMatchObject({ state: 'done' });
  expect((await refusal(askApproval(own(), { route: 'records/loan', body: {} }))).code).toBe(
    'approval.route',
  );
});

test('that less is approved by two, somebody else approves; more of it is wanted at once', async () => {
  expect((await refusal(wantTwoPeople(own(), ['rules']))).code).toBe('approval.needed');
  const asked = await askApproval(own(), { route: 'two-people', body: { kinds: ['rules'] } });
  expect(asked.words).toEqual(['Somebody else approves only that rules go live']);
  await decideApproval(other(), asked.id, { decision: 'approve' });
  await wantTwoPeople(own(), ['rules', 'model']);
});

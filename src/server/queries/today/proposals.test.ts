import { decideProposals } from '@/server/actions/records/decide-proposals';
import { disconnect } from '@/server/database/connection';
import { makeStoredWorkspace } from '@/server/testing/stored-workspace';
import { TESTER, type TestWorkspace } from '@/server/testing/workspace';
import { listMessages, listProposals } from './proposals';

let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await makeStoredWorkspace();
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

test('what is proposed is told with its rule, its source and each field as it would be', async () => {
  const { proposals, open, told } = await listProposals(await workspace.load(), false);
  expect([open, told]).toEqual([1, 0]);
  const [proposal] = proposals;
  expect(proposal).toMatchObject({
    ...{ kind: 'make', state: 'open', person: TESTER.name, typeName: 'Line', target: null },
    source: { typeName: 'Artefact', title: 'Robe' },
    rule: { kind: 'create' },
  });
  expect(proposal!.fields.map(({ fieldName, after }) => [fieldName, after?.text])).toEqual(
    expect.arrayContaining([
      ['Title', 'Robe'],
      ['Artefact number', 'N-002'],
      ['Maker', 'empty'],
    ]),
  );
  expect(await listMessages(await workspace.load())).toEqual([]);
});

test('what was decided isn’t open any more, and says who decided it, and why', async () => {
  const load = () => workspace.load();
  const [proposal] = (await listProposals(await load(), false)).proposals;
  await decideProposals({
    ...{ workspace: workspace.key, person: TESTER.id },
    decisions: [{ id: proposal!.id, decision: 'refuse', reason: 'It is insured by its owner.' }],
  });
  expect(await listProposals(await load(), false)).toEqual({ proposals: [], open: 0, told: 0 });
  const { proposals: decided } = await listProposals(await load(), true);
  expect(decided).toMatchObject([
    { id: proposal!.id, state: 'refused', decidedBy: TESTER.name, reason: 'It is insured by its owner.' },
  ]);
});

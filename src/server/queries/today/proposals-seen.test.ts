import { sightOf, type TypeAccess } from '@/core/model';
import { decideProposals } from '@/server/actions/records/decide-proposals';
import { disconnect } from '@/server/database/connection';
import { seenWorkspace } from '@/server/queries/seen-workspace';
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

const all: TypeAccess = {
  ...{ see: true, add: true, change: true, delete: true, export: true },
  ...{ fields: {}, selection: null, own: null },
};
const seeing = async (access: Readonly<Record<string, Partial<TypeAccess>>>) => {
  const whole = Object.entries(access).map(([type, one]) => [type, { ...all, ...one }] as const);
  const sight = sightOf([Object.fromEntries(whole)], TESTER.id)!;
  return seenWorkspace(await workspace.load(), sight);
};
const feel = (text: string) => ({ where: { kind: 'feel' as const, text } });

test.each<[string, Readonly<Record<string, Partial<TypeAccess>>>, number]>([
  ['all that it is about is seen', { artefact: feel('title = "Robe"') }, 1],
  ['another type is hidden', { exhibition: { see: false } }, 1],
  ['the record that it is for isn’t seen', { artefact: feel('title = "Another"') }, 0],
  ['the type of that is hidden', { artefact: { see: false } }, 0],
  ['the type that it makes is hidden', { line: { see: false } }, 0],
  ['a field that it fills is hidden', { line: { fields: { artefactNumber: 'hidden' } } }, 0],
  ['a field that it fills is only looked at', { line: { fields: { artefactNumber: 'seen' } } }, 0],
  ['none of these may be added', { line: { add: false } }, 0],
])('%s: whether a proposal waits for who sees it so, and is theirs to decide', async (_, access, count) => {
  const [whole, seen] = [await workspace.load(), await seeing(access)];
  const list = await listProposals(whole, false, seen);
  expect([list.proposals.length, list.open]).toEqual([count, count]);
  const [proposal] = (await listProposals(whole, false)).proposals;
  const decide = (id: string) =>
    decideProposals({
      ...{ workspace: workspace.key, person: TESTER.id, seen },
      decisions: [{ id, decision: 'approve', values: { title: 'x'.repeat(100_000) } }],
    });
  // What is wrong with it is told to who sees it; to others there is none.
  const [decided] = await decide(proposal!.id);
  expect(decided?.problem?.code).toBe(count === 0 ? 'proposal.unknown' : 'value.length');
  const [unknown] = await decide('999999');
  expect(unknown?.problem?.code).toBe('proposal.unknown');
});

test('who sees a part approves what they see, and changes of it what they might enter themselves', async () => {
  const seen = await seeing({ artefact: feel('title = "Robe"') });
  const whole = await workspace.load();
  const [proposal] = (await listProposals(whole, false, seen)).proposals;
  const approve = async (values: Readonly<Record<string, unknown>>) => {
    const decisions = [{ id: proposal!.id, decision: 'approve', values } as const];
    const [decided] = await decideProposals({
      ...{ workspace: workspace.key, person: TESTER.id, seen, decisions },
    });
    return decided!;
  };
  expect((await approve({ artefact: '00000000-0000-7000-8000-00000000dead' })).problem?.code).toBe(
    'sight.record',
  );
  expect((await approve({})).problem).toBeNull();
  expect((await listProposals(whole, true, seen)).proposals).toMatchObject([{ state: 'approved' }]);
  expect(await listMessages(whole, TESTER.id)).toEqual([]);
});

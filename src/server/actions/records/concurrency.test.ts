import { ALL_RULES, galleries } from '@/core/testing/galleries';
import { disconnect } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { expectSound } from '@/server/testing/expect-sound';
import { fewParents, numbersFrom, someEdits } from '@/server/testing/traffic';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { saveEdits } from './save-edits';

const WRITERS = 8;
/** Saves that go through, for each writer. Many more are refused because another was quicker: they meet in a few records. */
const SAVES = 100;

let workspace: TestWorkspace;
beforeAll(async () => {
  workspace = await testWorkspace({ model: galleries(), rows: fewParents(), rules: ALL_RULES });
});
afterAll(async () => {
  await workspace.remove();
  await disconnect();
});

test('eight writers under the same few parents: no wrong total, no lost ledger entry, no deadlock shown', async () => {
  const codes = new Map<string, number>();
  await Promise.all(
    Array.from({ length: WRITERS }, async (_, writer) => {
      const number = numbersFrom(writer + 1);
      for (let own = 0; own < SAVES;) {
        try {
          await saveEdits({ workspace: workspace.key, person: TESTER.id, edits: someEdits(number) });
          own += 1;
        } catch (error) {
          // Some can't be done, because somebody else was quicker: those are refused in words. Anything else fails the test.
          if (!(error instanceof Refusal)) throw error;
          codes.set(error.code, (codes.get(error.code) ?? 0) + 1);
        }
      }
    }),
  );
  const conflicts = ['edit.deleted', 'restore.there', 'link.deleted'];
  expect([...codes.keys()].filter((code) => !conflicts.includes(code))).toEqual([]);
  await expectSound(workspace);
});

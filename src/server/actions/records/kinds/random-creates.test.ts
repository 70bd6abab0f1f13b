import { cases } from '@/core/testing/cases';
import type { Row } from '@/core/engine';
import { ALWAYS, anySaves, COUNT, MAKING_MODEL, MAKING_ROWS, MakingDesk } from '@/core/testing/any-making';
import { TREATMENT } from '@/core/testing/inspections';
import { numbered } from '@/core/testing/rule-desk';
import fc from 'fast-check';
import { disconnect } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { flawsIn } from '@/server/testing/flaws';
import { wireOf } from '@/server/testing/making';
import { TESTER, testWorkspace } from '@/server/testing/workspace';
import { saveEdits } from '@/server/actions/records/save-edits';

afterAll(disconnect);

const RULES = [COUNT, TREATMENT, ALWAYS];

/** Records as text; what rules made is told by the record that it is for, without the ids and numbers that were given. */
const picture = (rows: readonly Row[]): string[] =>
  rows
    .map(({ type, id, deleted, version, values: { number: _, line, lineNumber, ...values } }) => {
      const isMade = type === 'line' || type === 'treatment';
      const given = [line ? 'has a line' : '', lineNumber ? 'has its number' : ''];
      return [type, isMade ? '' : id, deleted, version, ...given, JSON.stringify(values)].join(' ');
    })
    .sort();

test('saves make, follow and take back as in memory, to the same end', async () => {
  let saved = 0;
  await fc.assert(
    fc.asyncProperty(anySaves, async (saves) => {
      const workspace = await testWorkspace({
        model: MAKING_MODEL,
        rows: MAKING_ROWS,
        rules: numbered(RULES),
      });
      try {
        const desk = new MakingDesk(RULES);
        for (const [number, acts] of saves.entries()) {
          const there = await workspace.rows();
          const edits = desk.edits(acts, number).map((edit) => wireOf(edit, there, desk));
          const { isDone } = desk.save(acts, number);
          const refused = await saveEdits({ workspace: workspace.key, person: TESTER.id, edits }).then(
            () => null,
            (error: unknown) => error,
          );
          if (refused !== null && !(refused instanceof Refusal)) throw refused;
          expect(refused === null || edits.length === 0).toBe(isDone);
          const expected = MAKING_MODEL.types.flatMap(({ key }) => desk.all(key));
          expect(picture(await workspace.rows())).toEqual(picture(expected));
          saved += isDone ? 1 : 0;
        }
        expect(await flawsIn(workspace)).toEqual([]);
      } finally {
        await workspace.remove();
      }
    }),
    { numRuns: cases(12), endOnFailure: true },
  );
  expect(saved).toBeGreaterThan(40);
});

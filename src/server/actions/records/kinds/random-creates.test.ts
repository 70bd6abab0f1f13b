import { cases } from '@/core/testing/cases';
import type { Row } from '@/core/engine';
import {
  ALWAYS,
  anyListEdit,
  anySaves,
  COUNT,
  MAKING_MODEL,
  MAKING_ROWS,
  MakingDesk,
} from '@/core/testing/any-making';
import { fieldIn } from '@/core/model';
import { toWire } from '@/core/values';
import { TREATMENT } from '@/core/testing/inspections';
import { numbered } from '@/core/testing/rule-desk';
import fc from 'fast-check';
import { disconnect } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { flawsIn } from '@/server/testing/flaws';
import { wireOf } from '@/server/testing/making';
import { TESTER, testWorkspace } from '@/server/testing/workspace';
import { editList, rehearseListEdit } from '@/server/actions/records/edit-list';
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

/** Refused over sets alone, by name: one by one it would be done. */
const ONLY_SETS = ['create.many', 'run.size'];

test('lists that are edited as sets make, follow and take back as if each record had been saved in one run', async () => {
  let [saved, made] = [0, 0];
  await fc.assert(
    fc.asyncProperty(fc.array(anyListEdit, { minLength: 1, maxLength: 5 }), async (lists) => {
      const workspace = await testWorkspace({
        ...{ model: MAKING_MODEL, rows: MAKING_ROWS, rules: numbered(RULES) },
      });
      try {
        const desk = new MakingDesk(RULES);
        for (const { type, values } of lists) {
          const edits = desk
            .all(type)
            .filter(({ deleted }) => !deleted)
            .map(({ id }) => ({ kind: 'edit', type, id, values }) as const);
          const wire = Object.entries(values).map(([key, value]) => [
            key,
            toWire(fieldIn(MAKING_MODEL, type, key).type, value),
          ]);
          const input = {
            ...{ workspace: workspace.key, person: TESTER.id, type },
            values: Object.fromEntries(wire) as Record<string, unknown>,
          };
          const refused = await rehearseListEdit(input)
            .then(({ changed }) => editList({ ...input, expected: changed }))
            .then(
              () => null,
              (error: unknown) => error,
            );
          if (refused !== null && !(refused instanceof Refusal)) throw refused;
          // What only sets refuse ends the comparison: the records stand otherwise from here on.
          if (refused !== null && ONLY_SETS.includes(refused.code)) return;
          desk.run(edits);
          expect(desk.refused === '').toBe(refused === null);
          const expected = MAKING_MODEL.types.flatMap(({ key }) => desk.all(key));
          const unversioned = (rows: readonly Row[]) => picture(rows.map((row) => ({ ...row, version: 0 })));
          expect(unversioned(await workspace.rows())).toEqual(unversioned(expected));
          saved += refused === null ? 1 : 0;
        }
        made += desk.all('line').length + desk.all('treatment').length;
        expect(await flawsIn(workspace)).toEqual([]);
      } finally {
        await workspace.remove();
      }
    }),
    { numRuns: cases(12), endOnFailure: true },
  );
  expect(saved).toBeGreaterThan(15);
  expect(made).toBeGreaterThan(10);
});

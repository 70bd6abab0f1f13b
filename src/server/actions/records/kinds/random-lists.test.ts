import { cases } from '@/core/testing/cases';
import {
  BOUNDS,
  type Edit,
  MemoryStore,
  Overlay,
  propagate,
  type Row,
  type RunOutcome,
  runInMemory,
} from '@/core/engine';
import { type Field, fieldIn } from '@/core/model';
import { buildPlan } from '@/core/plan';
import { anyCase, type Case } from '@/core/testing/any-case';
import { printRows } from '@/core/testing/compare';
import { toWire } from '@/core/values';
import fc from 'fast-check';
import { setBounds } from '@/server/store/session/bounds';
import { editList, rehearseListEdit } from '@/server/actions/records/edit-list';
import { Refusal } from '@/server/refusal';
import { driftIn } from '@/server/testing/drift';
import { endCases, madeOf } from '@/server/testing/random';
import { TESTER } from '@/server/testing/workspace';

afterAll(endCases);

/** What all records of a type are given, in the manner of a save of the case. */
interface ForAll {
  readonly type: string;
  readonly values: Extract<Edit, { readonly kind: 'edit' }>['values'];
}

const forAllIn = ({ saves, rows }: Case): ForAll | undefined =>
  saves
    .flat()
    .flatMap((edit) => (edit.kind === 'edit' ? [{ type: edit.type, values: edit.values }] : []))
    .find(({ type, values }) => Object.keys(values).length > 0 && rows.some((row) => row.type === type));

const told = (rows: readonly Row[]): string => printRows(rows.map((row) => ({ ...row, version: 0 })));

afterEach(() => setBounds());

test.each([
  ['as it is', BOUNDS],
  ['with few records to a page, and few that go one by one', { mostByRow: 1, mostKeptByRow: 1, page: 2 }],
])(
  'a list that is edited as a set, %s, ends as if each record had been saved in one run',
  async (_, bounds) => {
    setBounds(bounds);
    const seen = new Map<string, number>();
    let refusals = 0;
    const hold = async (given: Case): Promise<void> => {
      const all = forAllIn(given);
      const workspace = all && (await madeOf(given));
      if (!all || !workspace) return;
      const { model } = given;
      try {
        const { plan, live } = await workspace.load();
        const memory = new MemoryStore(model, true);
        (await workspace.rows()).forEach((row) => memory.put(row));
        const edits: Edit[] = [...memory.rows(all.type)]
          .filter(({ deleted }) => !deleted)
          .map(({ id }) => ({ kind: 'edit', type: all.type, id, values: all.values }));
        const overlay = new Overlay(model, memory);
        const expected: RunOutcome = runInMemory(
          model,
          overlay,
          propagate({ model, plan: buildPlan(model, live).plan, edits }),
        );
        const wire = Object.entries(all.values).map(([key, value]) => {
          const field: Field = fieldIn(model, all.type, key);
          return [key, toWire(field.type, value)];
        });
        const input = {
          ...{ workspace: workspace.key, person: TESTER.id, type: all.type },
          values: Object.fromEntries(wire) as Record<string, unknown>,
        };
        try {
          const { changed } = await rehearseListEdit(input);
          await editList({ ...input, expected: changed });
        } catch (error) {
          if (!(error instanceof Refusal)) throw error;
          refusals += 1;
          if (expected.kind === 'done') throw error;
          return;
        }
        if (expected.kind === 'refused')
          throw new Error(expected.problems.map(({ message }) => message).join('\n'));
        overlay.commit();
        expect(told(await workspace.rows())).toBe(
          told(model.types.flatMap(({ key }) => [...memory.rows(key)])),
        );
        expect(await driftIn(workspace)).toEqual([]);
        for (const { kind } of plan.turns) seen.set(kind, (seen.get(kind) ?? 0) + 1);
      } finally {
        await workspace.remove();
      }
    };
    await fc.assert(fc.asyncProperty(anyCase, hold), {
      numRuns: cases(20),
      endOnFailure: true,
    });
    expect([...seen.keys()].sort()).toEqual([
      'formula',
      'keptCascade',
      'linked',
      'reactingCascade',
      'rollUp',
    ]);
    expect(refusals).toBeLessThan(30);
  },
);

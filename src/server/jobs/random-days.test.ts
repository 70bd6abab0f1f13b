import { cases } from '@/core/testing/cases';
import { type Edit, MemoryStore, Overlay, propagate, type RecordStore, runInMemory } from '@/core/engine';
import { buildPlan } from '@/core/plan';
import type { Create, RuleDefinition } from '@/core/rules';
import { rowOf, uuid } from '@/core/testing/galleries';
import { numbered } from '@/core/testing/rule-desk';
import '@/core/testing/seed';
import { LATE, REMINDER, SEEN_LATE, signing } from '@/core/testing/signing';
import { shiftDay } from '@/core/values';
import { advanceDayIn } from '@/core/verify';
import fc from 'fast-check';
import { saveEdits } from '@/server/actions/records/save-edits';
import { disconnect } from '@/server/database/connection';
import { flawsIn } from '@/server/testing/flaws';
import { TESTER, testWorkspace } from '@/server/testing/workspace';
import { settleDay } from './settle-days';

afterAll(disconnect);

const BEGIN = '2027-03-31';
const dayOf = (days: number): string => shiftDay(BEGIN, days)!;
const FILES = [uuid('11'), uuid('12'), uuid('13')];

/** The day turns so many days on, or a file is due on another day. */
type Step =
  | { readonly kind: 'turn'; readonly by: number }
  | { readonly kind: 'due'; readonly file: number; readonly due: number | null };

const anyDue = fc.option(fc.integer({ min: -3, max: 12 }), { nil: null });
const anySteps = fc.array(
  fc.oneof(
    fc.record({ kind: fc.constant('turn' as const), by: fc.integer({ min: 1, max: 4 }) }),
    fc.record({ kind: fc.constant('due' as const), file: fc.nat(2), due: anyDue }),
  ),
  { minLength: 1, maxLength: 7 },
);

interface Standing {
  readonly late: boolean | null;
  readonly isSeen: boolean;
  readonly reminders: number;
}

/** What comes of it, worked out file by file as a person would. */
function plainly(dues: readonly (number | null)[], steps: readonly Step[], rule: Create): Standing[] {
  return dues.map((first, at): Standing => {
    let [due, day] = [first, 0];
    let was = due !== null && due < day;
    let [isSeen, made, there] = [false, 0, 0];
    for (const step of steps) {
      if (step.kind === 'turn') day += step.by;
      else if (step.file === at) due = step.due;
      const is = due !== null && due < day;
      if (is && !was) {
        isSeen = true;
        if (rule.each === 'everyTime' || made === 0) [made, there] = [made + 1, there + 1];
        else if (rule.afterwards === 'removed') there = 1;
      }
      if (was && !is && rule.afterwards === 'removed') there = 0;
      was = is;
    }
    return { late: due === null ? false : was, isSeen, reminders: there };
  });
}

interface Seen {
  readonly type: string;
  readonly id: string;
  readonly deleted: boolean;
  readonly values: Readonly<Record<string, unknown>>;
}

const standingIn = (rows: readonly Seen[]): Standing[] =>
  FILES.map((file) => {
    const { late, seenLate } = rows.find(({ id }) => id === file)!.values;
    const reminders = rows.filter(
      ({ type, deleted, values }) => type === 'reminder' && !deleted && values.file === file,
    ).length;
    return { late: late as boolean | null, isSeen: seenLate !== null, reminders };
  });

const rowsOf = (dues: readonly (number | null)[]) =>
  FILES.map((id, at) =>
    rowOf(signing(BEGIN), 'file', id, {
      title: `File ${at}`,
      due: dues[at] === null ? null : dayOf(dues[at]!),
    }),
  );

/** The same in memory, as the bench and proofs go through days. */
function inMemory(dues: readonly (number | null)[], steps: readonly Step[], definitions: RuleDefinition[]) {
  const live = numbered(definitions);
  let model = signing(BEGIN);
  const base = new MemoryStore(model, true);
  rowsOf(dues).forEach((row) => base.put(row));
  let store: RecordStore = base;
  let [day, ids] = [0, 1_000];
  const newId = () => uuid(String((ids += 1)));
  const facts = { person: null, moment: '2027-03-31T12:00:00.000Z' };
  const go = (edits: readonly Edit[], fill: readonly string[]) => {
    const after = new Overlay(model, store);
    const { plan } = buildPlan(model, live);
    runInMemory(model, after, propagate({ model, plan, edits, fill, newId, facts, isAlone: true }));
    store = after;
  };
  go(
    [],
    live.map(({ id }) => id),
  );
  for (const step of steps) {
    if (step.kind === 'turn') {
      day += step.by;
      const input = { model, store, live, drafts: [], names: {}, newId };
      const turned = advanceDayIn(input, dayOf(day), facts.moment);
      expect(turned.problems).toEqual([]);
      [model, store] = [turned.model, turned.after];
    } else {
      const values = { due: step.due === null ? null : dayOf(step.due) };
      go([{ kind: 'edit', type: 'file', id: FILES[step.file]!, values }], []);
    }
  }
  return standingIn(model.types.flatMap(({ key }) => [...store.rows(key)]));
}

/** The same in PostgreSQL, as the sweep and saves go on. */
async function inPostgres(
  dues: readonly (number | null)[],
  steps: readonly Step[],
  definitions: RuleDefinition[],
) {
  const rules = numbered(definitions);
  const workspace = await testWorkspace({ model: signing(BEGIN), rows: rowsOf(dues), rules });
  try {
    let day = 0;
    for (const step of steps) {
      if (step.kind === 'turn') await settleDay(workspace.key, dayOf((day += step.by)));
      else {
        const values = { due: step.due === null ? null : dayOf(step.due) };
        const edits = [{ kind: 'edit', type: 'file', id: FILES[step.file]!, values } as const];
        await saveEdits({ workspace: workspace.key, person: TESTER.id, edits });
      }
    }
    expect(await flawsIn(workspace)).toEqual([]);
    return standingIn(await workspace.rows());
  } finally {
    await workspace.remove();
  }
}

test('days that turn between saves come to the same in memory, in PostgreSQL, and worked out by hand', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.tuple(anyDue, anyDue, anyDue),
      anySteps,
      fc.constantFrom('once' as const, 'everyTime' as const),
      fc.constantFrom('left' as const, 'removed' as const),
      async (dues, steps, each, afterwards) => {
        const reminder: Create = { ...REMINDER, each, afterwards };
        const definitions: RuleDefinition[] = [LATE, SEEN_LATE, reminder];
        const wanted = plainly(dues, steps, reminder);
        expect(inMemory(dues, steps, definitions)).toEqual(wanted);
        expect(await inPostgres(dues, steps, definitions)).toEqual(wanted);
      },
    ),
    { numRuns: cases(12) },
  );
});

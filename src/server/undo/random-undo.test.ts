import { cases } from '@/core/testing/cases';
import { type Row, sameOutcome, storedOutcome } from '@/core/engine';
import { isClaiming, isReacting } from '@/core/rules';
import { anyCase, type Case } from '@/core/testing/any-case';
import { ALWAYS, anySaves, COUNT, MAKING_MODEL, MAKING_ROWS, MakingDesk } from '@/core/testing/any-making';
import { TREATMENT } from '@/core/testing/inspections';
import { numbered } from '@/core/testing/rule-desk';
import type { UndoView } from '@/core/api';
import fc from 'fast-check';
import { saveEdits } from '@/server/actions/records/save-edits';
import { Refusal } from '@/server/refusal';
import { reactingRow, quote, run, tableOf } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import { flawsIn } from '@/server/testing/flaws';
import { wireOf } from '@/server/testing/making';
import { endCases, madeOf, saveIn } from '@/server/testing/random';
import { TESTER, type TestWorkspace, testWorkspace } from '@/server/testing/workspace';
import { rehearseUndo, undoRun, type UndoOptions } from './undo-run';

afterAll(endCases);

/** Cases of each property come in these numbers. */
const RUNS = cases(6, 1_000);

interface Standing {
  readonly rows: ReadonlyMap<string, Row>;
  /** What rules made for what, and the rows at which rules that react are. */
  readonly beside: readonly string[];
}

async function standing(workspace: TestWorkspace): Promise<Standing> {
  const rows = new Map((await workspace.rows()).map((row) => [row.id, row]));
  const { schema, plan } = await workspace.load();
  const beside = await inSnapshot(async (transaction) => {
    const made = await run<{ made: string }>(
      transaction,
      `SELECT concat_ws(' ', rule, source, made) AS made FROM ${quote(schema)}._made ORDER BY 1`,
    );
    const at: string[] = [];
    for (const { id, writes } of plan.rules.filter(isReacting)) {
      const found = await run<{ at: string }>(
        transaction,
        `SELECT concat_ws(' ', id, $1::text, ${quote(reactingRow(id, writes.field))}) AS at FROM ${tableOf(schema, writes.type)} WHERE deleted_run IS NULL ORDER BY 1`,
        [id],
      );
      at.push(...found.map((one) => one.at));
    }
    return [...made.map((one) => one.made), ...at];
  });
  return { rows, beside };
}

/** What is there, by its values; versions count what people did. */
const picture = ({ rows, beside }: Standing): string[] => [
  ...[...rows.values()]
    .filter(({ deleted }) => !deleted)
    .map(({ type, id, values, errors }) => JSON.stringify({ type, id, values, errors }))
    .sort(),
  ...beside,
];

/** Without titles, which may change in it, and the order that they give. */
function untitled({ written, records, effects, left, leftCount }: UndoView): string[] {
  const words = new Set(['title', 'text']);
  const print = (of: unknown) =>
    JSON.stringify(of, (key, value: unknown) => (words.has(key) ? undefined : value));
  const samples = [...written, ...records, ...effects].flatMap(({ samples: some, ...of }) =>
    of.records === 0 ? [] : [print(of), ...some.map((one) => `${print(of)} ${print(one)}`)],
  );
  return [...samples, ...left.map(print), String(leftCount)].sort();
}

const undo = async (workspace: TestWorkspace, id: string, options: UndoOptions): Promise<UndoView | null> => {
  const all = { ...options, limit: 5_000 };
  const told = await rehearseUndo(await workspace.load(), id, all);
  try {
    const done = await undoRun({ workspace: workspace.key, person: TESTER.id, run: id }, all);
    expect(untitled(done)).toEqual(untitled(told));
    expect(await flawsIn(workspace)).toEqual([]);
    return done;
  } catch (error) {
    if (!(error instanceof Refusal) || error.code !== 'undo.nothing') throw error;
    expect(told.written.length + told.records.length).toBe(0);
    return null;
  }
};

/** Saves that were done, each with what stood there before it. */
interface Saved {
  readonly run: string;
  readonly before: Standing;
}

/** Undone from the last to the first, each leaves what stood before it. */
async function undoneBackwards(
  workspace: TestWorkspace,
  saved: readonly Saved[],
  options: UndoOptions,
): Promise<void> {
  for (const { run: id, before } of [...saved].reverse()) {
    const view = await undo(workspace, id, options);
    expect(view?.left ?? []).toEqual([]);
    expect(picture(await standing(workspace))).toEqual(picture(before));
  }
}

async function savedOf(workspace: TestWorkspace, saves: Case['saves']): Promise<Saved[]> {
  const saved: Saved[] = [];
  for (const edits of saves) {
    const before = await standing(workspace);
    const { run: id } = await saveIn(workspace, edits);
    if (id !== null) saved.push({ run: id, before });
  }
  return saved;
}

const anyOptions = fc.constantFrom<UndoOptions>({}, { mostOneByOne: 0 });

test('runs undone from the last to the first leave what stood before each, whatever rules did in them', async () => {
  let undoes = 0;
  const hold = async (given: Case, options: UndoOptions) => {
    const workspace = await madeOf(given);
    if (!workspace) return;
    try {
      const saved = await savedOf(workspace, given.saves);
      await undoneBackwards(workspace, saved, options);
      undoes += saved.length;
    } finally {
      await workspace.remove();
    }
  };
  await fc.assert(fc.asyncProperty(anyCase, anyOptions, hold), { numRuns: 3 * RUNS, endOnFailure: true });
  expect(undoes).toBeGreaterThan(2 * RUNS);
}, 1_200_000);

/** What a run wrote, as the ledger and the records tell. */
async function writtenIn(
  workspace: TestWorkspace,
  id: string,
): Promise<{ cells: [string, string, string][]; records: [string, string][] }> {
  const { schema, model } = await workspace.load();
  return inSnapshot(async (transaction) => {
    const logged = await run<{ type: string; id: string; event: string; fields: string[] }>(
      transaction,
      `SELECT type, record::text AS id, event, ARRAY(SELECT jsonb_object_keys(changes)) AS fields FROM ${quote(schema)}._ledger WHERE run = $1`,
      [id],
    );
    const records = logged
      .filter(({ event }) => event !== 'changed')
      .map((one): [string, string] => [one.id, one.event]);
    for (const { key } of model.types)
      for (const made of await run<{ id: string }>(
        transaction,
        `SELECT id::text FROM ${tableOf(schema, key)} WHERE created_run = $1`,
        [id],
      ))
        records.push([made.id, 'created']);
    const cells = logged.flatMap((one) =>
      one.fields.map((field): [string, string, string] => [one.type, one.id, field]),
    );
    return { cells, records };
  });
}

test('runs undone in any order put back what nothing else touched, name the rest, and touch nothing else', async () => {
  let [back, left] = [0, 0];
  const hold = async (given: Case, order: readonly number[], options: UndoOptions) => {
    const workspace = await madeOf(given);
    if (!workspace) return;
    try {
      const saved = await savedOf(workspace, given.saves);
      const { plan, model } = await workspace.load();
      const isKept = (type: string, field: string) =>
        plan.rules.some(
          (rule) =>
            rule.writes.type === type &&
            rule.writes.field === field &&
            (plan.keeper(rule.writes) !== undefined || isClaiming(rule)),
        );
      const writes = await Promise.all(saved.map(({ run: id }) => writtenIn(workspace, id)));
      const touchedBy = (key: string) =>
        writes.filter(({ cells }) => cells.some(([, id, field]) => `${id} ${field}` === key)).length;
      const inOrder = saved
        .map((one, at) => ({ ...one, at }))
        .sort((a, b) => (order[a.at] ?? 0) - (order[b.at] ?? 0));
      for (const { run: id, before, at } of inOrder) {
        const was = await standing(workspace);
        const view = await undo(workspace, id, options);
        const now = await standing(workspace);
        const stays = new Set((view?.left ?? []).map((one) => `${one.id} ${one.fieldName ?? ''}`));
        const { cells, records } = writes[at]!;
        const own = new Set(cells.map(([, record, field]) => `${record} ${field}`));
        for (const [type, record, field] of cells) {
          const name = model.field(type, field)!.name;
          if (isKept(type, field) || now.rows.get(record)!.deleted) continue;
          if (stays.has(`${record} ${name}`)) left += 1;
          else if (touchedBy(`${record} ${field}`) === 1 && view) {
            const standsAgain = sameOutcome(
              storedOutcome(now.rows.get(record)!, field),
              storedOutcome(before.rows.get(record)!, field),
            );
            expect({ record, field, standsAgain }).toEqual({ record, field, standsAgain: true });
            back += 1;
          }
        }
        for (const [record, event] of records) {
          if (stays.has(`${record} `) || !view) continue;
          expect([record, event, now.rows.get(record)!.deleted]).toEqual([
            record,
            event,
            event !== 'deleted',
          ]);
        }
        const ownRecords = new Set(records.map(([record]) => record));
        for (const [record, row] of was.rows) {
          if (!ownRecords.has(record)) expect(now.rows.get(record)!.deleted).toBe(row.deleted);
          for (const field of Object.keys(row.values)) {
            if (own.has(`${record} ${field}`) || isKept(row.type, field) || ownRecords.has(record)) continue;
            expect([record, field, now.rows.get(record)!.values[field]]).toEqual([
              record,
              field,
              row.values[field],
            ]);
          }
        }
      }
    } finally {
      await workspace.remove();
    }
  };
  const order = fc.array(fc.nat(1_000), { minLength: 8, maxLength: 8 });
  await fc.assert(fc.asyncProperty(anyCase, order, anyOptions, hold), {
    numRuns: 3 * RUNS,
    endOnFailure: true,
  });
  expect(back).toBeGreaterThan(5 * RUNS);
  expect(left).toBeGreaterThan(0);
}, 1_200_000);

test('what rules made, followed, took back and gave is undone as if it had never been, and done again', async () => {
  const RULES = [COUNT, TREATMENT, ALWAYS];
  let undoes = 0;
  await fc.assert(
    fc.asyncProperty(anySaves, anyOptions, async (saves, options) => {
      const workspace = await testWorkspace({
        ...{ model: MAKING_MODEL, rows: MAKING_ROWS, rules: numbered(RULES) },
      });
      try {
        const desk = new MakingDesk(RULES);
        const saved: Saved[] = [];
        for (const [number, acts] of saves.entries()) {
          const before = await standing(workspace);
          const there = [...before.rows.values()];
          const edits = desk.edits(acts, number).map((edit) => wireOf(edit, there, desk));
          const { isDone } = desk.save(acts, number);
          if (!isDone || edits.length === 0) continue;
          const { run: id } = await saveEdits({ workspace: workspace.key, person: TESTER.id, edits });
          if (id !== null) saved.push({ run: id, before });
        }
        const last = saved.at(-1);
        if (last) {
          // Undone and done again, all is as it was after it.
          const after = picture(await standing(workspace));
          const done = await undo(workspace, last.run, options);
          const again = done && (await undo(workspace, done.undoneBy!, options));
          expect(picture(await standing(workspace))).toEqual(after);
          if (again) saved[saved.length - 1] = { ...last, run: again.undoneBy! };
        }
        await undoneBackwards(workspace, saved, options);
        undoes += saved.length;
      } finally {
        await workspace.remove();
      }
    }),
    { numRuns: 2 * RUNS, endOnFailure: true },
  );
  expect(undoes).toBeGreaterThan(2 * RUNS);
}, 1_200_000);

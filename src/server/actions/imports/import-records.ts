import { writeCount } from '@/core/values';
import { type EditProblem, readEdits, type WireEdit } from '@/core/engine';
import { type Link, typeIn } from '@/core/model';
import type { Plan } from '@/core/plan';
import { valueOfNone } from '@/core/rules';
import type { Value } from '@/core/values';
import { v7 as newId } from 'uuid';
import type { Transaction } from 'sequelize';
import { checkType } from '@/server/queries/records/records';
import { refuse, Refusal } from '@/server/refusal';
import { copyRows } from '@/server/store/sql/copy-in';
import { recomputeAfter } from '@/server/store/bulk/recompute-after';
import { insertRun, noteFilled } from '@/server/store/write/run-row';
import { numberMade } from '@/server/store/write/serials';
import { columnOf, run, tableOf } from '@/server/store/sql/sql';
import { withExclusiveLock } from '@/server/store/session/transactions';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { checkPerson } from '@/server/queries/workspaces/people';

/** Most records of one import, and most problems that are told of one. */
export const MOST_IMPORTED = 2_000_000;
const MOST_PROBLEMS = 50;

export interface ImportInput {
  readonly workspace: string;
  readonly person: string;
  readonly type: string;
  /** Values as they travel, one after the other; problems name them by their place from 1 on. */
  readonly records:
    AsyncIterable<Readonly<Record<string, unknown>>> | Iterable<Readonly<Record<string, unknown>>>;
  readonly note?: string;
}

export interface Imported {
  readonly run: string;
  readonly created: number;
  /** How many values each rule changed on records that were there before. */
  readonly written: readonly { readonly rule: string; readonly records: number }[];
}

/**
 * Makes many records of one type in one run: all of them or none. They are checked as they come in and copied in bulk; links are
 * checked, and rules worked out, by statements over the whole set. Nobody else saves meanwhile.
 */
export function importRecords(input: ImportInput): Promise<Imported> {
  return withExclusiveLock(input.workspace, async ({ workspace, transaction }) => {
    checkPerson(workspace, input.person);
    checkType(workspace.model, input.type);
    const info = { kind: 'import', person: input.person, note: input.note ?? '' } as const;
    const runId = await insertRun(transaction, workspace.schema, info);
    const reader = new Reader(workspace, input);
    const created = await copyRows(transaction, workspace, input.type, runId, reader.rows());
    if (reader.problems.length > 0) throw refuse(422, reader.problems);
    await noteFilled(transaction, workspace.schema, runId, [...reader.fields]);
    if (created === 0)
      throw new Refusal(422, 'import.empty', 'There is no record in it. Send one on each line.');
    // Until PostgreSQL knows of the new records it plans as for an empty table: totals over a million took hours.
    await run(transaction, `ANALYZE ${tableOf(workspace.schema, input.type)}`);
    for (const link of workspace.model.linksFrom(input.type))
      await checkLink(transaction, workspace, link, runId);
    await numberMade({ transaction, workspace, type: input.type, run: runId });
    const table = tableOf(workspace.schema, input.type);
    const filled = await recomputeAfter({
      ...{ transaction, workspace, run: runId },
      entered: ({ type, field }) =>
        type === input.type
          ? `SELECT id FROM ${table} WHERE created_run = ${BigInt(runId)} AND ${columnOf(field)} IS NOT NULL`
          : null,
      written: {
        type: input.type,
        parents: (link) =>
          `SELECT DISTINCT ${columnOf(link)} FROM ${table} WHERE created_run = ${BigInt(runId)}`,
      },
    });
    return { run: runId, created, written: filled.map(({ rule, records }) => ({ rule: rule.id, records })) };
  });
}

/** Reads records one by one; keeps what is wrong with them, and goes on reading for a while to tell more of it at once. */
class Reader {
  readonly problems: EditProblem[] = [];
  /** Which fields the records have. */
  readonly fields = new Set<string>();

  constructor(
    private readonly workspace: LoadedWorkspace,
    private readonly input: ImportInput,
  ) {}

  async *rows(): AsyncGenerator<{ id: string; values: Record<string, Value> }> {
    const { model, plan, people } = this.workspace;
    const { type } = this.input;
    const first = firstValues(plan, type);
    let line = 0;
    for await (const record of this.input.records) {
      line += 1;
      if (line > MOST_IMPORTED) {
        const message = `More than ${writeCount(MOST_IMPORTED)} records in one import. Send it in parts.`;
        throw new Refusal(413, 'import.size', message);
      }
      const edit: WireEdit = { kind: 'create', type, values: record };
      const read = readEdits({ model, plan, edits: [edit], people, newId, areNumbersGiven: true });
      if (!read.ok) {
        this.problems.push(...read.problems.map((problem) => ({ ...problem, index: line - 1 })));
        if (this.problems.length >= MOST_PROBLEMS) return;
        continue;
      }
      const [made] = read.edits;
      for (const field of Object.keys(record)) this.fields.add(field);
      if (made?.kind === 'create' && this.problems.length === 0)
        yield { id: made.id, values: { ...first, ...made.values } };
    }
  }
}

/** What rules keep on a record that has nothing beneath it yet. */
export const firstValues = (plan: Plan, type: string): Record<string, Value> =>
  Object.fromEntries(
    plan.rules
      .filter((rule) => rule.writes.type === type)
      .map((rule) => [rule.writes.field, valueOfNone(rule)]),
  );

/** Refuses links to records that aren't there, and loops in a hierarchy. */
async function checkLink(
  transaction: Transaction,
  { model, schema }: LoadedWorkspace,
  link: Link,
  runId: string,
): Promise<void> {
  const [table, column] = [tableOf(schema, link.type), columnOf(link.link)];
  const missing = await run<{ id: string }>(
    transaction,
    `SELECT DISTINCT c.${column}::text AS id FROM ${table} c LEFT JOIN ${tableOf(schema, link.parent)} p ON p.id = c.${column} AND p.deleted_run IS NULL
      WHERE c.created_run = $1 AND c.${column} IS NOT NULL AND p.id IS NULL LIMIT 3`,
    [runId],
  );
  const parent = typeIn(model, link.parent);
  if (missing.length > 0) {
    const ids = missing.map(({ id }) => id).join(', ');
    const message = `${link.field.name}: there is no ${parent.name} with the id ${ids}. Import ${parent.plural} first, or leave the link out.`;
    throw refuse(422, [{ code: 'link.gone', message, place: link.link }]);
  }
  // A new record has a new id, which no record names yet: a link to the same type can't come back to it.
}

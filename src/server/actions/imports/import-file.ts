import { firstIn, writeCount } from '@/core/values';
import { checkImportPlan, type ImportPlan } from '@/core/intake';
import { typeIn } from '@/core/model';
import type { ImportView } from '@/core/api';
import { models } from '@/server/database/models';
import { Incoming } from '@/server/intake/incoming';
import { type Bytes, readFile } from '@/server/intake/read-file';
import { type PeopleByWords, RowReader } from '@/server/intake/row-reader';
import { shadowOf, SHADOW_RUN } from '@/server/intake/shadow';
import { MOST_REFUSED, type RowsRead, settleRows, takeRows } from '@/server/intake/take-rows';
import { type Tell, untold } from '@/server/progress';
import { checkType } from '@/server/queries/records/records';
import { refuse, Refusal, type RefusedPart } from '@/server/refusal';
import { insertRun, noteFilled } from '@/server/store/write/run-row';
import { withExclusiveLockAfter, inRehearsal } from '@/server/store/session/transactions';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { MOST_IMPORTED } from './import-records';
import { checkPerson } from '@/server/queries/workspaces/people';

export interface ImportFileInput {
  readonly workspace: string;
  readonly person: string;
  readonly type: string;
  readonly plan: ImportPlan;
  readonly bytes: Bytes;
  readonly note?: string;
  readonly tell?: Tell;
}

/**
 * What an import of a file would do: rows that make, change or leave records, rows that are refused and why, and what rules would write
 * then. Worked out by the statements that would save it, on temporary copies; locks no record and saves nothing.
 */
export async function rehearseImport(input: ImportFileInput): Promise<ImportView> {
  const known = await loadWorkspace(input.workspace);
  checkPerson(known, input.person);
  return inRehearsal(known, async (transaction, workspace) => {
    checkPlan(workspace, input);
    const shadow = await shadowOf(transaction, workspace, { types: [input.type], person: input.person });
    return takeRows(
      { transaction, workspace: shadow, runId: SHADOW_RUN, tell: input.tell ?? untold },
      { ...input, most: MOST_REFUSED.file },
      (incoming) => copyFile(incoming, shadow, input),
    );
  });
}

/**
 * Takes a file in as one run: all of it, or all but the rows that are refused where the plan says so. Nobody waits while the
 * file comes in, and nobody else saves while it is written; a file that stops half-way leaves nothing behind.
 */
export function importFile(input: ImportFileInput): Promise<ImportView> {
  return withExclusiveLockAfter(
    input.workspace,
    async ({ workspace, transaction }) => {
      checkPerson(workspace, input.person);
      checkPlan(workspace, input);
      const incoming = new Incoming({ transaction, workspace, type: input.type, plan: input.plan });
      await incoming.make();
      return { incoming, rows: await copyFile(incoming, workspace, input) };
    },
    async ({ workspace, transaction }, { incoming, rows }) => {
      const info = { kind: 'import', person: input.person, note: input.note ?? '' } as const;
      const runId = await insertRun(transaction, workspace.schema, info);
      await noteFilled(
        transaction,
        workspace.schema,
        runId,
        input.plan.columns.map(({ field }) => field),
      );
      const view = await settleRows(
        { transaction, workspace, runId, tell: input.tell ?? untold },
        incoming,
        { ...input, most: MOST_REFUSED.file },
        rows,
      );
      if (view.refused > 0 && input.plan.refused === 'stop') throw refusedRows(view);
      if (view.created + view.changed === 0)
        throw new Refusal(
          422,
          'import.nothing',
          'Nothing would change: no row makes or changes a record. Nothing was saved.',
        );
      return { ...view, run: runId };
    },
  );
}

function checkPlan({ model, plan }: LoadedWorkspace, { type, plan: given }: ImportFileInput): void {
  checkType(model, type);
  const keeperOf = (field: string) => plan.keeper({ type, field })?.name;
  const isFilled = (field: string) => plan.filler({ type, field }) !== undefined;
  const problems = checkImportPlan(model, keeperOf, typeIn(model, type), given, isFilled);
  if (problems.length > 0) throw refuse(422, problems);
}

function refusedRows({ refused, refusals }: ImportView): Refusal {
  const rows = `${writeCount(refused)} ${refused === 1 ? 'row' : 'rows'}`;
  const message = `${rows} can’t be taken in, so nothing was saved. Line ${firstIn(refusals).line}: ${firstIn(refusals).message}`;
  const parts = refusals.slice(0, MOST_REFUSED.list).map(({ line, column, message: why }): RefusedPart => ({
    ...{ code: 'import.row', place: column, index: line, message: `Line ${line}: ${why}` },
  }));
  return new Refusal(422, 'import.refused', message, parts, { refused });
}

/** Copies the rows of a file beside the records. */
async function copyFile(
  incoming: Incoming,
  workspace: LoadedWorkspace,
  input: ImportFileInput,
): Promise<RowsRead> {
  const reader = new RowReader({
    ...{ workspace, type: input.type, plan: input.plan, filled: incoming.filled, most: MOST_REFUSED.file },
    tell: input.tell ?? untold,
    people: await peopleByWords(workspace),
  });
  await incoming.copy(reader.lines(limited(readFile(input.plan, input.bytes))));
  return { number: reader.number, refusedNumber: reader.refusedNumber, refused: reader.refused };
}

async function* limited<T>(rows: AsyncIterable<T>): AsyncGenerator<T> {
  let number = 0;
  for await (const row of rows) {
    number += 1;
    if (number > MOST_IMPORTED) {
      const message = `The file has more than ${writeCount(MOST_IMPORTED)} rows. Import it in parts.`;
      throw new Refusal(413, 'import.size', message);
    }
    yield row;
  }
}

/** People by id, by e-mail, and by name where only one has it. */
async function peopleByWords({ people }: LoadedWorkspace): Promise<PeopleByWords> {
  const words = new Map<string, string>();
  const found = await models().Person.findAll({ where: { id: [...people.keys()] } });
  const nameOf = (name: string) => name.normalize('NFC').toLowerCase();
  for (const { id, name } of found)
    if (found.filter((other) => nameOf(other.name) === nameOf(name)).length === 1)
      words.set(nameOf(name), id);
  for (const { id, email } of found) {
    words.set(email.toLowerCase(), id);
    words.set(id, id);
  }
  return words;
}

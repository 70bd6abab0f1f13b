import { runWith, writeBack } from '@/core/engine';
import type { UndoView } from '@/core/api';
import { effectsOf } from '@/server/intake/effects';
import { shadowOf, SHADOW_RUN } from '@/server/intake/shadow';
import { checkPerson } from '@/server/queries/workspaces/people';
import { refuse, Refusal } from '@/server/refusal';
import { PostgresDriver } from '@/server/store/run/postgres-driver';
import { SnapshotDriver } from '@/server/store/run/snapshot-driver';
import { insertRun } from '@/server/store/write/run-row';
import { withExclusiveLock, inRehearsal } from '@/server/store/session/transactions';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { decide } from './decide';
import { settleBin, takeBackMade } from './made-and-proposed';
import { entriesOf, dropCells, stagedTypes, type Undoing } from './staged';
import { effectsOfRipple, MOST_SHOWN, undoView } from './view';
import { writeSet } from './write-set';

export interface UndoInput {
  readonly workspace: string;
  readonly person: string;
  /** The run that is undone. */
  readonly run: string;
}

export interface UndoOptions {
  /** How much of what is left is told one by one, after how many. */
  readonly limit?: number;
  readonly from?: number;
  /** Records up to which the engine goes from each to what follows; beyond them all is written by statements over the set. */
  readonly mostOneByOne?: number;
}

/** How much of what is left is told at once, unless it is asked for otherwise. */
export const LEFT_TOLD = 200;
const MOST_ONE_BY_ONE = 2_000;

const recordsIn = (types: readonly { readonly records: number }[]): number =>
  types.reduce((sum, { records }) => sum + records, 0);

/** What undoing a run would do: worked out on what stands there and thrown away; locks no record. */
export function rehearseUndo(
  known: LoadedWorkspace,
  id: string,
  { limit = LEFT_TOLD, from = 0, mostOneByOne = MOST_ONE_BY_ONE }: UndoOptions = {},
): Promise<UndoView> {
  return inRehearsal(known, async (transaction, workspace) => {
    const undoing: Undoing = { transaction, workspace, logged: workspace.schema, run: id };
    await decide(undoing);
    const types = await stagedTypes(undoing);
    const telling = { undoneBy: null, limit, from };
    if (recordsIn(types) <= mostOneByOne) {
      const effects = await oneByOne(undoing, new SnapshotDriver(workspace, transaction), true).catch(
        (error: unknown) => {
          if (error instanceof Refusal && error.code === 'rehearsal.size') return null;
          throw error;
        },
      );
      if (effects) return undoView(undoing, effects, telling);
    }
    const of = { types: types.map(({ type }) => type), person: null };
    const shadow = await shadowOf(transaction, workspace, of);
    const writing = { ...undoing, workspace: shadow, undoneBy: SHADOW_RUN, isEveryPace: true };
    const filled = await writeSet(writing);
    const effects = await effectsOf(
      { transaction, workspace: shadow, runId: SHADOW_RUN },
      filled,
      MOST_SHOWN,
    );
    return undoView(undoing, effects, telling);
  });
}

/**
 * Undoes a run by another, whatever its size: nobody else saves meanwhile. What it wrote goes back where it still stands as the run left it, what
 * rules keep is worked out, and nothing reacts; what stays is told.
 */
export function undoRun(
  input: UndoInput,
  { limit = LEFT_TOLD, from = 0, mostOneByOne = MOST_ONE_BY_ONE }: UndoOptions = {},
): Promise<UndoView> {
  return withExclusiveLock(input.workspace, async ({ workspace, transaction }) => {
    checkPerson(workspace, input.person);
    const undoing: Undoing = { transaction, workspace, logged: workspace.schema, run: input.run };
    await decide(undoing);
    const types = await stagedTypes(undoing);
    const records = recordsIn(types);
    if (records === 0) throw nothingLeft(input.run);
    const info = { kind: 'save', person: input.person, note: `Undo of run ${input.run}` } as const;
    const undoneBy = await insertRun(transaction, workspace.schema, info);
    // Before what is decided is written: claims stand against what comes back.
    await takeBackMade(undoing, undoneBy);
    const write = async (): Promise<UndoView['effects']> => {
      if (records <= mostOneByOne) {
        const going = { run: undoneBy, made: new Set<string>() };
        return oneByOne(
          undoing,
          new PostgresDriver(workspace, transaction, info, true, undefined, going),
          false,
        );
      }
      const filled = await writeSet({ ...undoing, undoneBy, isEveryPace: false });
      return effectsOf({ transaction, workspace, runId: undoneBy }, filled, MOST_SHOWN);
    };
    const effects = await write();
    await settleBin(
      undoing,
      undoneBy,
      types.map(({ type }) => type),
    );
    return undoView(undoing, effects, { undoneBy, limit, from });
  });
}

/** The engine goes from each record that is written to what follows. Answers what rules wrote. */
async function oneByOne(
  undoing: Undoing,
  driver: PostgresDriver | SnapshotDriver,
  isEveryPace: boolean,
): Promise<UndoView['effects']> {
  const { model, plan } = undoing.workspace;
  const entries = await entriesOf(undoing);
  for (const { before } of entries.values()) if (before) driver.know(before);
  const outcome = await runWith(
    (need) => driver.answer(need),
    writeBack({ model, plan, entries, isEveryPace }),
  );
  if (outcome.kind === 'refused') throw refuse(422, outcome.problems);
  if (driver instanceof PostgresDriver) await driver.finish();
  const { effects, cells } = await effectsOfRipple(undoing, outcome.ripple);
  // Where a rule keeps the field after all, it isn't written back.
  await dropCells(undoing.transaction, cells);
  return effects;
}

const nothingLeft = (id: string): Refusal =>
  new Refusal(
    409,
    'undo.nothing',
    `Nothing of run ${id} can be undone any more: all that it wrote was changed since, or is gone. Look at what is left of it for why.`,
  );

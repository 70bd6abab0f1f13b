import {
  type BulkInput,
  type Continuation,
  type Filled,
  runWith,
  walkInBulk,
  WritePrecedence,
} from '@/core/engine';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { type Tell, untold } from '@/server/progress';
import { refuse } from '@/server/refusal';
import { boundsNow } from '@/server/store/session/bounds';
import { COUNTED_ONCE, countLater } from '@/server/store/write/run-counts';
import { contextOfRun } from '@/server/store/write/run-context';
import { refuseLeftEmpty } from '@/server/store/sets/refuse-left-empty';
import { BulkDriver, type BulkDriverGiven } from './bulk-driver';

export interface RecomputeInput
  extends
    Pick<BulkInput, 'appeared' | 'done' | 'turned' | 'isEveryPace' | 'isQuiet' | 'fill' | 'standing'>,
    Pick<BulkDriverGiven, 'workspace' | 'run' | 'due' | 'entered'> {
  readonly transaction: Transaction;
  /** Records of one type that were written. */
  readonly written?: {
    readonly type: string;
    /** Other types whose records were written too. */
    readonly also?: readonly string[];
    /** SQL of a query of the parents that those records name, or named before, by a link's key. */
    readonly parents: (link: string) => string;
  };
  /** Goes on in a run of which the engine has worked out the first steps. */
  readonly rest?: Continuation;
  /** Types of which the run wrote records before. */
  readonly types?: readonly string[];
  readonly tell?: Tell;
}

/**
 * Works out what follows in a run over many, which is written already: from the records that it made and changed, from rules whose pace has come
 * round, or from rules that are filled. Nobody else saves meanwhile. Answers what each rule wrote, in the order in which they did.
 */
export async function recomputeAfter(input: RecomputeInput): Promise<readonly Filled[]> {
  const { transaction, workspace, run, written, rest, due, tell = untold } = input;
  const { model, plan } = workspace;
  const driver = new BulkDriver({
    ...{ transaction, workspace, run, tell },
    ...(written ? { parents: written.parents } : {}),
    ...(due ? { due } : {}),
    ...(input.entered ? { entered: input.entered } : {}),
  });
  const outcome = await runWith(
    (need) => driver.answer(need),
    walkInBulk({
      ...input,
      ...{ model, plan, newId, bounds: boundsNow(), facts: await contextOfRun(transaction, workspace, run) },
      types: [
        ...(written && !input.standing ? [written.type, ...(written.also ?? [])] : []),
        ...(input.types ?? []),
      ],
      writePrecedence: rest?.writePrecedence ?? new WritePrecedence([], () => false),
      from: rest?.from ?? 0,
      ...(rest ? { acted: rest.acted } : {}),
      ...(written ? { written: written.type } : { written: undefined }),
      ...(due ? { due: new Set(due.keys()) } : { due: undefined }),
    }),
  );
  if (outcome.kind === 'refused') throw refuse(422, outcome.problems);
  await driver.finish();
  await refuseLeftEmpty(transaction, workspace, run);
  const reached = outcome.filled.reduce((sum, { records }) => sum + records, 0);
  if (reached >= COUNTED_ONCE) await countLater(transaction, workspace.schema, run);
  return outcome.filled;
}

import { Transaction } from 'sequelize';
import { database, isConnectionLost } from '../database/connection';
import { Refusal } from '../refusal';
import { quote, run, runHot } from './sql';
import { type LoadedWorkspace, loadWorkspace, reloadWorkspace } from './workspace';

/** The workspace has moved on since this process compiled it: roll back, load, try again. */
class EpochMoved extends Error {}

/** Most times that a save is tried before it is given up; from the fourth on it has the workspace to itself. */
const TRIES = 8;
const TRIES_TOGETHER = 3;

export interface Attempt {
  readonly workspace: LoadedWorkspace;
  readonly transaction: Transaction;
  /** The workspace lock is held exclusively: nobody else saves meanwhile. */
  readonly isAlone: boolean;
}

/** PostgreSQL's codes for a deadlock and for a serialization failure. */
const isConflict = (error: unknown): boolean => ['40P01', '40001'].includes(codeOf(error) ?? '');
const codeOf = (error: unknown): string | undefined => {
  const { code, parent } = error as { code?: string; parent?: { code?: string } };
  return code ?? parent?.code;
};

/**
 * One save: a transaction whose first statement locks the workspace (shared) and compares the epoch, so that nothing is
 * ever saved with stale rules. Deadlocks, and whatever `isRetry` names, are tried again.
 */
export async function inSave<T>(
  key: string,
  isRetry: (error: unknown) => boolean,
  work: (attempt: Attempt) => Promise<T>,
): Promise<T> {
  let workspace = await loadWorkspace(key);
  for (let tried = 1; ; tried += 1) {
    const isAlone = tried > TRIES_TOGETHER;
    try {
      return await inTransaction(async (transaction) => {
        await begin(transaction, workspace, isAlone ? 'begin_change' : 'begin_save');
        return work({ workspace, transaction, isAlone });
      });
    } catch (error) {
      if (error instanceof EpochMoved) workspace = await reloadWorkspace(key);
      else if (!isConflict(error) && !isRetry(error)) throw error;
      if (tried === TRIES) {
        throw new Refusal(
          503,
          'save.busy',
          'Too many people are changing these records at once. Nothing was saved; try again in a moment.',
        );
      }
    }
  }
}

/**
 * A change of live rules or of the model: nobody saves meanwhile, and nobody saves afterwards with what was compiled before.
 * Waits at most five seconds for saves to end.
 */
export async function inChange<T>(key: string, work: (attempt: Attempt) => Promise<T>): Promise<T> {
  for (let tried = 1; ; tried += 1) {
    const workspace = await reloadWorkspace(key);
    try {
      const result = await inTransaction(async (transaction) => {
        await run(transaction, "SET LOCAL lock_timeout = '5s'");
        await begin(transaction, workspace, 'begin_change');
        const answer = await work({ workspace, transaction, isAlone: true });
        await run(transaction, `UPDATE ${quote(workspace.schema)}.state SET epoch = epoch + 1`);
        return answer;
      });
      await reloadWorkspace(key);
      return result;
    } catch (error) {
      if (codeOf(error) === '55P03') {
        throw new Refusal(
          503,
          'change.busy',
          'Other saves are still running, so the rules can’t change right now. Nothing was changed; try again.',
        );
      }
      if (!(error instanceof EpochMoved) || tried === TRIES) throw error;
    }
  }
}

/** Looks at the data as it stands at one moment, takes no row locks and writes nothing. */
export function inSnapshot<T>(work: (transaction: Transaction) => Promise<T>): Promise<T> {
  return database().transaction(
    { isolationLevel: Transaction.ISOLATION_LEVELS.REPEATABLE_READ },
    async (transaction) => {
      await run(transaction, 'SET TRANSACTION READ ONLY');
      return work(transaction);
    },
  );
}

/**
 * READ COMMITTED, PostgreSQL's own choice (naming it would cost a round trip): under REPEATABLE READ a run would read what
 * stood before it had its locks.
 */
async function inTransaction<T>(work: (transaction: Transaction) => Promise<T>): Promise<T> {
  const transaction = await database().transaction();
  let result: T;
  try {
    result = await work(transaction);
  } catch (error) {
    // A connection that is lost can't be rolled back; the server has done so.
    await transaction.rollback().catch(() => undefined);
    throw error;
  }
  try {
    await transaction.commit();
  } catch (error) {
    if (isConnectionLost(error)) throw unknownOutcome();
    throw error;
  }
  return result;
}

const unknownOutcome = (): Refusal =>
  new Refusal(
    503,
    'save.unknown',
    'The database went away just as this was being saved, so it isn’t known whether it was. Reload to see what is there before you try again.',
  );

async function begin(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  how: 'begin_save' | 'begin_change',
): Promise<void> {
  const [state] = await runHot<{ epoch: string }>(
    transaction,
    workspace.epoch,
    `SELECT epoch::text FROM ${quote(workspace.schema)}.${how}()`,
  );
  if (state?.epoch !== workspace.epoch) throw new EpochMoved();
}

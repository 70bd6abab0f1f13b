import { firstIn } from '@/core/values';
import type { CompiledRule } from '@/core/rules';
import { Transaction } from 'sequelize';
import { database, isConnectionLost } from '@/server/database/connection';
import { Refusal } from '@/server/refusal';
import { NoLongerSo } from '@/server/sign-in/proof';
import { beginning, checkBeginning, noteEntered } from './beginning';
import { AnsweredBefore, claimKey, isAnsweredBefore } from './answered';
import { requestContext } from './request-context';
import { tellLater } from './tell-later';
import { allOf, cork, pipelined, quote, run } from '@/server/store/sql/sql';
import { takenRefusal } from './unique';
import { currentWorkspace, type LoadedWorkspace, loadWorkspace, reloadWorkspace } from './workspace';
import { codeOf, EpochMoved, isClash, isConflict, isOfOtherModel } from './conflicts';

/** A run that writes so many records that it wants the workspace to itself: it starts again with it. */
export class NeedsExclusiveLock extends Error {
  constructor(
    readonly rule: CompiledRule,
    /** The records beneath which so many lie. */
    readonly sources: readonly string[],
    /** How many, where that is known. */
    readonly records: number | null,
  ) {
    super('A run wants the workspace to itself');
  }
}

/** Most times that a save is tried before it is given up; from the fourth on it has the workspace to itself. */
const TRIES = 8;

const TRIES_TOGETHER = 3;

/** What was committed may have left something for rules that are brought up to date soon after, or for people; a run over many is counted. */
function tellSlower({ key, plan }: LoadedWorkspace, mayBeMany = false): void {
  if (mayBeMany) return tellLater(key);
  const isTelling = plan.turns.some(({ definition }) => 'tells' in definition && definition.tells);
  if (isTelling || plan.rules.some(({ pace }) => pace === 'soonAfter')) tellLater(key);
}

export interface Attempt {
  readonly workspace: LoadedWorkspace;
  readonly transaction: Transaction;
  /** The workspace lock is held exclusively: nobody else saves meanwhile. */
  readonly isAlone: boolean;
  /** Until the transaction has begun and the epoch is known to be that of `workspace`: nothing is decided before. */
  readonly begun: Promise<void>;
  /** Sends last statements along with the commit; nothing may be asked of the database after them. */
  last(send: () => Promise<unknown>): void;
  /** Does some work of this process's own while the commit is under way. */
  meanwhile(work: () => void): void;
}

/**
 * One save: a transaction whose first statement locks the workspace (shared) and compares the epoch, so that nothing is
 * ever saved with stale rules. Deadlocks, and whatever `isRetry` names, are tried again.
 */
export async function inSave<T>(
  key: string,
  isRetry: (error: unknown) => boolean,
  work: (attempt: Attempt) => Promise<T>,
  {
    beginsAlone = () => false,
    mayWantAlone = true,
  }: {
    /** Whether it had better have the workspace to itself from the first try on. */
    readonly beginsAlone?: (workspace: LoadedWorkspace) => boolean;
    /** Where it may not, that it wants the workspace to itself is thrown. */
    readonly mayWantAlone?: boolean;
  } = {},
): Promise<T> {
  let workspace = await loadWorkspace(key);
  let wantsAlone = mayWantAlone && beginsAlone(workspace);
  for (let tried = 1; ; tried += 1) {
    const compiled = workspace;
    const isAlone = wantsAlone || tried > TRIES_TOGETHER;
    try {
      const result = await inTransaction({
        first: (transaction) => beginning(transaction, compiled, isAlone ? 'begin_change' : 'begin_save'),
        work: (session, state) => {
          const begun = state.then((row) => checkBeginning(compiled, row));
          begun.catch(() => undefined); // told where it is waited for
          return work({ workspace: compiled, isAlone, begun, ...session });
        },
      });
      tellSlower(compiled, isAlone);
      return result;
    } catch (error) {
      if (error instanceof AnsweredBefore || error instanceof NoLongerSo) throw error;
      const taken = takenRefusal(compiled, error);
      if (taken) throw taken;
      // What is sent along with the first statement may meet another model before the epoch is known; and where its schema has gone, the
      // workspace was removed by another process, and loading it says so.
      if (error instanceof EpochMoved || (isOfOtherModel(error) && (await hasMoved(compiled))))
        workspace = await reloadWorkspace(key);
      else if (error instanceof NeedsExclusiveLock && mayWantAlone) wantsAlone = true;
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

/** Whether a workspace has another epoch by now than the one that it was compiled for, or is gone. */
async function hasMoved({ schema, epoch }: LoadedWorkspace): Promise<boolean> {
  try {
    const [state] = await database().transaction((transaction) =>
      run<{ epoch: string }>(transaction, `SELECT epoch::text FROM ${quote(schema)}._state`),
    );
    return state?.epoch !== epoch;
  } catch (error) {
    if (isOfOtherModel(error)) return true;
    throw error;
  }
}

/** One long run that has the workspace to itself: nobody else saves meanwhile. Waits at most five seconds for saves to end. */
export const withExclusiveLock = <T>(key: string, work: (attempt: Attempt) => Promise<T>): Promise<T> =>
  changing(key, { work }, false);

/**
 * The same for a run that has much to read first: that goes on in the run's transaction before the workspace is locked, so nobody
 * waits for it. It may write to temporary tables only. What was read can't be read again: where the rules or the model changed
 * meanwhile the run is refused.
 */
export const withExclusiveLockAfter = <P, T>(
  key: string,
  prepare: (attempt: Preparing) => Promise<P>,
  work: (attempt: Attempt, prepared: P) => Promise<T>,
): Promise<T> => {
  let prepared: P;
  return changing(
    key,
    {
      prepare: async (preparing) => void (prepared = await prepare(preparing)),
      work: (attempt) => work(attempt, prepared),
    },
    false,
  );
};

export type Preparing = Pick<Attempt, 'workspace' | 'transaction'>;

interface Change<T> {
  readonly prepare?: (preparing: Preparing) => Promise<void>;
  readonly work: (attempt: Attempt) => Promise<T>;
}

/**
 * A change of live rules or of the model: nobody saves meanwhile, and nobody saves afterwards with what was compiled before.
 * Waits at most five seconds for saves to end.
 */
export async function inChange<T>(key: string, work: (attempt: Attempt) => Promise<T>): Promise<T> {
  const result = await changing(key, { work }, true);
  await reloadWorkspace(key);
  return result;
}

const CHANGING =
  "SELECT set_config('lock_timeout', '5s', true), set_config('statement_timeout', '0', true), set_config('jit', 'off', true)";

async function changing<T>(key: string, { prepare, work }: Change<T>, raisesEpoch: boolean): Promise<T> {
  for (let tried = 1; ; tried += 1) {
    const workspace = await reloadWorkspace(key);
    try {
      const result = await inTransaction({
        first: (transaction) => run(transaction, CHANGING),
        work: async (session, set) => {
          const { transaction } = session;
          await set;
          await prepare?.({ workspace, transaction });
          const state = firstIn(await beginning(transaction, workspace, 'begin_change'));
          checkBeginning(workspace, state);
          const answer = await work({ workspace, isAlone: true, begun: Promise.resolve(), ...session });
          if (raisesEpoch)
            await run(transaction, `UPDATE ${quote(workspace.schema)}._state SET epoch = epoch + 1`);
          return answer;
        },
      });
      tellSlower(workspace, true);
      return result;
    } catch (error) {
      // A deadlock, with whoever reads what is altered, took back one of the two; what was read first can't be read again.
      const isInTheWay = isConflict(error);
      if (codeOf(error) === '55P03' || (isInTheWay && (prepare || tried === TRIES))) {
        throw new Refusal(
          503,
          'change.busy',
          'Others are saving, or reading much, so the rules can’t change right now. Nothing was changed; try again in a moment.',
        );
      }
      if (error instanceof EpochMoved && prepare) throw changedMeanwhile();
      if (isInTheWay) continue;
      if (!(error instanceof EpochMoved) || tried === TRIES) throw takenRefusal(workspace, error) ?? error;
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

/** Milliseconds that one statement of a rehearsal may take. */
const LIMIT = 300_000;

/** A rehearsal on the data as it stands at one moment: whatever is done in it is taken back at its end. */
export async function inRehearsal<T>(
  known: LoadedWorkspace,
  work: (transaction: Transaction, workspace: LoadedWorkspace) => Promise<T>,
): Promise<T> {
  const transaction = await database().transaction({
    isolationLevel: Transaction.ISOLATION_LEVELS.REPEATABLE_READ,
  });
  try {
    await run(transaction, `SET LOCAL statement_timeout = ${LIMIT}; SET LOCAL jit = off`);
    return await work(transaction, await currentWorkspace(transaction, known));
  } finally {
    await transaction.rollback();
  }
}

type Session = Pick<Attempt, 'transaction' | 'last' | 'meanwhile'>;

interface Work<T> {
  readonly first: (transaction: Transaction) => Promise<Record<string, unknown>[]>;
  /** Starts before the first statement is answered. */
  readonly work: (session: Session, first: Promise<Record<string, unknown>>) => Promise<T>;
}

/**
 * A transaction on a connection of Sequelize's pool. Statements that don't wait for each other's answers are sent in one go
 * (the driver's pipeline mode): the first with the begin, the last with the commit. Of eight round trips three are left.
 * READ COMMITTED, PostgreSQL's own choice: under REPEATABLE READ a run would read what stood before it had its locks.
 */
async function inTransaction<T>({ first, work }: Work<T>): Promise<T> {
  const { connectionManager } = database() as unknown as { connectionManager: Connections };
  const connection = await connectionManager.getConnection({ type: 'write' });
  const lasts: (() => Promise<unknown>)[] = [];
  const owns: (() => void)[] = [];
  const session: Session = {
    transaction: { connection } as unknown as Transaction,
    last: (send) => void lasts.push(send),
    meanwhile: (own) => void owns.push(own),
  };
  connection.pipeline = true;
  try {
    const uncork = cork(session.transaction);
    const opened = connection.query('BEGIN');
    const begun = first(session.transaction).then(async ([row]) => (await opened, row ?? {}));
    for (const told of [opened, begun]) told.catch(() => undefined); // where it is waited for
    // What is asked for before anything has to be waited for travels with the begin.
    setImmediate(uncork);
    const result = await work(session, begun);
    await begun;
    const ending = pipelined(session.transaction, () => [
      ...lasts.map((send) => send()),
      ...claimKey(session.transaction),
      connection.query('COMMIT'),
    ]);
    const ended = allOf<unknown>(ending);
    owns.forEach((own) => own());
    await ended.catch((error: unknown) => {
      throw isConnectionLost(error) ? unknownOutcome() : error;
    });
    noteSaved();
    return result;
  } catch (error) {
    // A connection that is lost can't be rolled back; the server has done so.
    await connection.query('ROLLBACK').catch(() => undefined);
    throw isAnsweredBefore(error) ? new AnsweredBefore() : error;
  } finally {
    connection.pipeline = false;
    connectionManager.releaseConnection(connection);
  }
}

/**
 * What one statement writes that is a transaction by itself: one round trip. `false` where it wrote nothing, also because it met another save or
 * another model: then the same is done in a transaction. `work` sends nothing but that statement.
 */
export async function inOneStatement(
  workspace: LoadedWorkspace,
  work: (transaction: Transaction) => Promise<boolean>,
): Promise<boolean> {
  const { connectionManager } = database() as unknown as { connectionManager: Connections };
  const connection = await connectionManager.getConnection({ type: 'write' });
  try {
    const isSaved = await work({ connection } as unknown as Transaction);
    if (!isSaved) return false;
    noteEntered();
    noteSaved();
    tellSlower(workspace);
    return true;
  } catch (error) {
    if (isAnsweredBefore(error)) throw new AnsweredBefore();
    if (isConnectionLost(error)) throw isSurelyUnsaved(error) ? error : unknownOutcome();
    if (isConflict(error) || isOfOtherModel(error) || isClash(error)) return false;
    throw error;
  } finally {
    connectionManager.releaseConnection(connection);
  }
}

/** Where the database itself says that it ends, or the statement never left, a statement that is a transaction by itself wrote nothing. */
const isSurelyUnsaved = (error: unknown): boolean => {
  const { severity, message = '' } = error as { severity?: string; message?: string };
  return severity !== undefined || message.includes('not queryable');
};

/** What of Sequelize's pool is used here; it hands out the driver's own connections. */
interface Connections {
  getConnection(options: { type: 'write' }): Promise<Connection>;
  releaseConnection(connection: Connection): void;
}

interface Connection {
  /** Whether statements are sent without waiting for the answers of those before; only ever changed while none is out. */
  pipeline: boolean;
  query(text: string): Promise<unknown>;
}

const changedMeanwhile = (): Refusal =>
  new Refusal(
    409,
    'change.meanwhile',
    'The rules or the model changed while this was being read. Nothing was saved; look again at what it would do, and send it again.',
  );

/** From now on no answer says that nothing was saved. */
function noteSaved(): void {
  const context = requestContext();
  if (context) context.hasSaved = true;
}

/**
 * A change of the installation itself, which no workspace's epoch is compared for. Noted like any save: with the request's key, and
 * with what is known where the database goes away during the commit.
 */
export async function inInstallation<T>(
  work: (transaction: Transaction) => Promise<T>,
  isolationLevel: Transaction.ISOLATION_LEVELS = Transaction.ISOLATION_LEVELS.READ_COMMITTED,
): Promise<T> {
  let isWorked = false;
  try {
    const result = await database().transaction({ isolationLevel }, async (transaction) => {
      const given = await work(transaction);
      await Promise.all(claimKey(transaction));
      isWorked = true;
      return given;
    });
    noteSaved();
    return result;
  } catch (error) {
    if (isAnsweredBefore(error)) throw new AnsweredBefore();
    throw isWorked && isConnectionLost(error) ? unknownOutcome() : error;
  }
}

const unknownOutcome = (): Refusal =>
  new Refusal(
    503,
    'save.unknown',
    'The database went away just as this was being saved, so it isn’t known whether it was. Reload to see what is there before you try again.',
  );

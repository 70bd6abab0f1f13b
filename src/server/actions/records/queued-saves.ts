import { firstIn } from '@/core/values';
import { readEdits, type WireEdit } from '@/core/engine';
import type { Transaction } from 'sequelize';
import { v7 as newId } from 'uuid';
import { refuse, Refusal } from '@/server/refusal';
import { tellLater } from '@/server/store/session/tell-later';
import { quote, run } from '@/server/store/sql/sql';
import { inSave } from '@/server/store/session/transactions';
import { type LoadedWorkspace, loadWorkspace } from '@/server/store/session/workspace';
import { checkPerson } from '@/server/queries/workspaces/people';
import { saveEdits } from './save-edits';

export interface QueueInput {
  readonly workspace: string;
  readonly person: string;
  readonly edits: readonly WireEdit[];
  readonly note?: string;
}

/**
 * Puts a save off: it is carried out soon after, by the same person, as one run. Refuses at once what could never be saved; what has changed
 * by then is told in Today. Answers its number.
 */
export async function queueSave({ workspace: key, person, edits, note = '' }: QueueInput): Promise<string> {
  let queued = '';
  await inSave(key, never, async ({ workspace, transaction, begun }) => {
    await begun;
    checkPerson(workspace, person);
    const { model, plan, people } = workspace;
    const read = readEdits({ model, plan, edits, people, newId });
    if (!read.ok) throw refuse(422, read.problems);
    const row = firstIn(
      await run<{ id: string }>(
        transaction,
        `INSERT INTO ${tableIn(workspace)} (person, edits, note) VALUES ($1, $2, $3) RETURNING id::text`,
        [person, JSON.stringify(edits), note],
      ),
    );
    queued = row.id;
  });
  tellLater(key);
  return queued;
}

const never = () => false;

const tableIn = ({ schema }: Pick<LoadedWorkspace, 'schema'>): string => `${quote(schema)}._queued_save`;

/** Carries out what was put off, the oldest first; what is refused stays, with why. Answers how many were saved. */
export async function saveQueued(key: string): Promise<number> {
  const workspace = await loadWorkspace(key);
  let saved = 0;
  for (let after = '0'; ;) {
    const next = await nextQueued(key, after);
    if (!next) return saved;
    after = next.id;
    try {
      await saveEdits({
        ...{ workspace: key, person: next.person, edits: next.edits, note: next.note },
        along: {
          before: (transaction, current) => takeQueued(transaction, current, next.id),
          after: () => Promise.resolve(),
        },
      });
      saved += 1;
    } catch (error) {
      // Another process was quicker, or its person dropped it.
      if (error instanceof Refusal && error.code === 'queue.gone') continue;
      const problem = error instanceof Refusal ? error.message : 'It couldn’t be saved; the log says why.';
      await inSave(key, never, ({ transaction }) =>
        run(transaction, `UPDATE ${tableIn(workspace)} SET problem = $2 WHERE id = $1`, [next.id, problem]),
      );
      if (!(error instanceof Refusal)) throw error;
    }
  }
}

interface Queued {
  readonly id: string;
  readonly person: string;
  readonly edits: readonly WireEdit[];
  readonly note: string;
}

async function nextQueued(key: string, after: string): Promise<Queued | undefined> {
  let found: Queued | undefined;
  await inSave(key, never, async ({ workspace, transaction, begun }) => {
    await begun;
    [found] = await run<Queued & Record<string, unknown>>(
      transaction,
      `SELECT id::text, person::text, edits, note FROM ${tableIn(workspace)} q WHERE problem IS NULL AND id > $1 ORDER BY q.id LIMIT 1`,
      [after],
    );
  });
  return found;
}

/** It leaves the queue in the transaction that saves it: never twice, and not at all where that is refused. */
async function takeQueued(transaction: Transaction, workspace: LoadedWorkspace, id: string): Promise<void> {
  const taken = await run(transaction, `DELETE FROM ${tableIn(workspace)} WHERE id = $1 RETURNING id`, [id]);
  if (taken.length === 0) throw gone(id);
}

const gone = (id: string): Refusal =>
  new Refusal(404, 'queue.gone', `Save ${id} doesn’t wait any more: it was saved or dropped. Reload to see.`);

export interface QueueDecision {
  readonly workspace: string;
  readonly person: string;
  readonly id: string;
  readonly decision: 'again' | 'drop';
}

/** A save that waits is tried again, or dropped for good. */
export async function decideQueued({ workspace: key, person, id, decision }: QueueDecision): Promise<void> {
  await inSave(key, never, async ({ workspace, transaction, begun }) => {
    await begun;
    checkPerson(workspace, person);
    if (!/^\d{1,18}$/.test(id)) throw gone(id);
    if (decision === 'drop') return takeQueued(transaction, workspace, id);
    const again = await run(
      transaction,
      `UPDATE ${tableIn(workspace)} SET problem = NULL WHERE id = $1 RETURNING id`,
      [id],
    );
    if (again.length === 0) throw gone(id);
  });
  if (decision === 'again') tellLater(key);
}

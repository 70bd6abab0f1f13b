import type { Transaction } from 'sequelize';
import { NoLongerSo, type Proof, proofOf, stillSignedIn } from '@/server/sign-in/proof';
import { type Binds, once, quote, runHot } from '@/server/store/sql/sql';
import { EpochMoved } from './conflicts';
import { requestContext } from './request-context';
import type { LoadedWorkspace } from './workspace';

/** The proof that is to be given yet. */
function proving() {
  const proof = requestContext()?.proof;
  return proof && !proof.holds ? proof : null;
}

/**
 * Locks the workspace, shared for a save, and then reads its epoch; and whether who asks is still who they were a moment ago, where that is to be
 * proved.
 */
export function beginning(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  how: 'begin_save' | 'begin_change',
): Promise<Record<string, unknown>[]> {
  const proof = proving();
  const text = once(workspace, `${how} ${proof?.by}`, () => {
    const still = proof ? `, ${stillSignedIn(proof)} AS still` : '';
    return `SELECT epoch::text${still} FROM ${quote(workspace.schema)}.${how}()`;
  });
  return runHot(transaction, workspace.epoch, text, proof ? proofOf(proof) : []);
}

/** Nothing is decided for who isn't signed in any more, or by rules that were compiled before. */
export function checkBeginning(workspace: LoadedWorkspace, { epoch, still }: Record<string, unknown>): void {
  const proof = proving();
  if (proof) {
    if (still !== true) throw new NoLongerSo();
    proof.holds = true;
  }
  if (epoch !== workspace.epoch) throw new EpochMoved();
}

/**
 * The same within a statement that is a transaction by itself: a query that answers a row where the workspace is the one that was compiled, for who is
 * still signed in. It waits for nobody: the statement has locked its tables by then, for which whoever changes the model may be waiting.
 */
export function entering({ schema, epoch }: LoadedWorkspace, binds: Binds): string {
  const proof = proving();
  const still = proof ? ` AND ${stillSignedIn(proof, placesOf(proof, binds))}` : '';
  return `SELECT WHERE ${quote(schema)}._begin_save_at_once() = ${binds.add(epoch, 'bigint')}${still}`;
}

function placesOf(proof: Proof, binds: Binds): [string, string] {
  const [id, since] = proofOf(proof);
  return [binds.add(id, 'bytea'), binds.add(since, 'text')];
}

/** What `entering` asked was found to be so. */
export function noteEntered(): void {
  const proof = proving();
  if (proof) proof.holds = true;
}

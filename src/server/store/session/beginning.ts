import type { Transaction } from 'sequelize';
import { NoLongerSo, proofOf, stillSignedIn } from '@/server/sign-in/proof';
import { once, quote, runHot } from '@/server/store/sql/sql';
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

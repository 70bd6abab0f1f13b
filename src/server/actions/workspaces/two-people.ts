import { APPROVED, type ApprovalKind, type TwoPeopleKind } from '@/core/api';
import type { Transaction } from 'sequelize';
import { Refusal } from '@/server/refusal';
import { noteSecurity } from '@/server/sign-in/security-events';
import { inChange } from '@/server/store/session/transactions';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { quote, run } from '@/server/store/sql/sql';

/** Something that was asked for, and who approves it. */
export interface Approved {
  readonly id: string;
  readonly by: string;
}

const MORE = 'that less has to be approved';

/** In the transaction that does it: what two people are wanted for is done by approval only, and each approval once. */
export async function settleApproval(
  transaction: Transaction,
  { id, schema }: Pick<LoadedWorkspace, 'id' | 'schema'>,
  kind: ApprovalKind,
  approved: Approved | undefined,
): Promise<void> {
  if (approved) {
    const [settled] = await run(
      transaction,
      `UPDATE ${quote(schema)}._approval SET state = 'done', decided_by = $2, decided_at = clock_timestamp() WHERE id = $1 AND state = 'waiting' RETURNING 1`,
      [approved.id, approved.by],
    );
    if (!settled)
      throw new Refusal(409, 'approval.decided', 'It was decided on already, or taken back. Look again.');
    return;
  }
  const wanted = await wantedIn(transaction, id);
  if (kind === 'twoPeople' ? wanted.length === 0 : !wanted.includes(kind)) return;
  throw new Refusal(
    409,
    'approval.needed',
    `Here somebody else approves ${kind === 'twoPeople' ? MORE : APPROVED[kind]}. Nothing was done yet: ask for it, and it stands in Today until somebody decides.`,
  );
}

/** What two people are wanted for in a workspace. */
export async function wantedIn(transaction: Transaction, id: number): Promise<readonly TwoPeopleKind[]> {
  const [found] = await run<{ wanted: TwoPeopleKind[] }>(
    transaction,
    'SELECT two_people AS wanted FROM public.workspace WHERE id = $1',
    [id],
  );
  return found?.wanted ?? [];
}

/** Says what two people are wanted for from now on. That it is for less, somebody else approves. */
export async function wantTwoPeople(
  by: { readonly workspace: string; readonly person: string },
  kinds: readonly TwoPeopleKind[],
  approved?: Approved,
): Promise<void> {
  await inChange(by.workspace, async ({ workspace, transaction }) => {
    const before = await wantedIn(transaction, workspace.id);
    if (approved || before.some((kind) => !kinds.includes(kind)))
      await settleApproval(transaction, workspace, 'twoPeople', approved);
    await run(transaction, 'UPDATE public.workspace SET two_people = $2 WHERE id = $1', [
      ...[workspace.id, kinds],
    ]);
    const data = { workspace: workspace.key, by: by.person, name: kinds.join(', ') };
    await noteSecurity({ kind: 'twoPeopleChanged', data }, transaction);
  });
}

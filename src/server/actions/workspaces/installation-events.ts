import type { InstallationEventView, SecurityKind } from '@/core/api';
import type { Transaction } from 'sequelize';
import { noteSecurity } from '@/server/sign-in/security-events';
import { run } from '@/server/store/sql/sql';

/** What is done to the installation itself. */
export interface InstallationEvent {
  /** `null`: Oikon itself, as it loads a demo. */
  readonly person: string | null;
  readonly kind: InstallationEventView['kind'];
  /** The workspace’s key, and its name as it was then. */
  readonly workspace: string;
  readonly name: string;
  readonly data?: InstallationEventView['data'];
}

const IN_SECURITY: Partial<Record<InstallationEvent['kind'], SecurityKind>> = {
  made: 'workspaceMade',
  copied: 'workspaceMade',
  imported: 'workspaceMade',
  removed: 'workspaceRemoved',
};

/** Notes in the installation’s ledger what was done to it, in the transaction that does it; in its security ledger, too, where a workspace comes or goes. */
export async function noteEvent(
  transaction: Transaction,
  { person, kind, workspace, name, data = {} }: InstallationEvent,
): Promise<void> {
  await run(
    transaction,
    'INSERT INTO public.installation_event (person, kind, workspace, name, data) VALUES ($1, $2, $3, $4, $5)',
    [person, kind, workspace, name, JSON.stringify(data)],
  );
  const security = IN_SECURITY[kind];
  if (security) await noteSecurity({ kind: security, person, data: { workspace, name } }, transaction);
}

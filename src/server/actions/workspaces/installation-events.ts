import type { InstallationEventView } from '@/core/api';
import type { Transaction } from 'sequelize';
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

/** Notes in the installation’s ledger what was done to it, in the transaction that does it. */
export const noteEvent = (
  transaction: Transaction,
  { person, kind, workspace, name, data = {} }: InstallationEvent,
): Promise<unknown> =>
  run(
    transaction,
    'INSERT INTO public.installation_event (person, kind, workspace, name, data) VALUES ($1, $2, $3, $4, $5)',
    [person, kind, workspace, name, JSON.stringify(data)],
  );

import { driftIn } from './drift';
import { ledgerFlaws } from './ledger';
import type { TestWorkspace } from './workspace';

/** What is kept otherwise than worked out over the whole table, and what is wrong with the ledger. */
export const flawsIn = async (workspace: TestWorkspace): Promise<string[]> => [
  ...(await driftIn(workspace)),
  ...(await ledgerFlaws(workspace)),
];

import type { SavedRun } from '@/core/api';
import type { WireEdit } from '@/core/engine';
import type { Transaction } from 'sequelize';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

export interface SaveInput {
  readonly workspace: string;
  /** `null`: Oikon itself. */
  readonly person: string | null;
  readonly edits: readonly WireEdit[];
  readonly note?: string;
  /** Where so many records would follow that they are written as a set, it is refused with their number, so that a person decides (`save.many`). */
  readonly asksWhereMany?: boolean;
  /** What is checked before it and kept after it, in the same transaction. */
  readonly along?: {
    readonly before: (transaction: Transaction, workspace: LoadedWorkspace) => Promise<void>;
    readonly after: (
      transaction: Transaction,
      workspace: LoadedWorkspace,
      run: string | null,
    ) => Promise<unknown>;
  };
}

export interface Saved extends SavedRun {
  /** Ids of the edited records, in the order of the edits. */
  readonly ids: readonly string[];
}

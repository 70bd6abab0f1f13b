import { firstIn } from '@/core/values';
import type { WireEdit } from '@/core/engine';
import type { QueuedSaveView } from '@/core/api';
import { quote, run } from '@/server/store/sql/sql';
import { inSnapshot } from '@/server/store/session/transactions';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import { instantSql, personName } from '@/server/queries/run-head';
import { readTitles, Wanted } from '@/server/store/session/titles';

const MOST = 200;

/** Saves that people put off and that aren't carried out yet, the oldest first. */
export function listQueued(workspace: LoadedWorkspace): Promise<QueuedSaveView[]> {
  return inSnapshot(async (transaction) => {
    const found = await run<{
      id: string;
      person: string;
      edits: readonly WireEdit[];
      note: string;
      at: string;
      problem: string | null;
    }>(
      transaction,
      `SELECT id::text, person::text, edits, note, ${instantSql('at')} AS at, problem FROM ${quote(workspace.schema)}._queued_save q ORDER BY q.id LIMIT ${MOST}`,
    );
    const wanted = new Wanted();
    for (const { edits } of found) wanted.add(firstIn(edits).type, firstIn(edits).id);
    const titles = await readTitles(transaction, workspace, wanted);
    return found.map(({ person, edits, ...one }) => {
      const { type, id = '', values = {} } = firstIn(edits);
      const fieldNames = Object.keys(values).map((key) => workspace.model.field(type, key)?.name ?? key);
      return {
        ...one,
        ...{ person: personName(workspace, person) ?? person, edits: edits.length },
        record: { type, id, title: titles[id] ?? id, fieldNames },
      };
    });
  });
}

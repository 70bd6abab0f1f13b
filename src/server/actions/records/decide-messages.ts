import { Refusal } from '@/server/refusal';
import { quote, run } from '@/server/store/sql/sql';
import { type By, saveBy } from '@/server/actions/named';

/** A message that was given up is sent again from the beginning, or dropped. Refuses one that isn't given up. */
export const decideMessage = (by: By, id: string, decision: 'again' | 'drop'): Promise<void> =>
  saveBy(by, async ({ workspace, transaction }) => {
    const table = `${quote(workspace.schema)}._message`;
    const text =
      decision === 'again'
        ? `UPDATE ${table} SET failed_at = NULL, first_at = NULL, tries = 0, next_at = clock_timestamp() WHERE id::text = $1 AND failed_at IS NOT NULL RETURNING 1`
        : `DELETE FROM ${table} WHERE id::text = $1 AND failed_at IS NOT NULL RETURNING 1`;
    if ((await run(transaction, text, [id])).length > 0) return;
    throw new Refusal(
      404,
      'message.unknown',
      'There is no message that was given up with this number. It may have been sent meanwhile: reload.',
    );
  });

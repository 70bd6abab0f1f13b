import { lastIn } from '@/core/values';
import type { CellRef } from '@/core/engine';
import type { History, HistoryEntry } from '@/core/api';
import { inSnapshot } from '@/server/store/session/transactions';
import { MADE_SOURCE } from '@/server/store/write/created-records';
import { quote, run, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';
import type { LedgerSource } from '@/server/store/write/ledger-entries';
import type { Transaction } from 'sequelize';
import { findRow } from '@/server/queries/records/records';
import { headOf, RUN_COLUMNS, type StoredRun } from '@/server/queries/run-head';
import { fieldName, type LedgerWords, loggedValue, readLedgerWords, ruleOf, typeName } from './ledger-words';

interface Stored extends StoredRun {
  readonly event: HistoryEntry['event'];
  readonly changes: Record<string, [unknown, unknown]>;
  readonly sources: Record<string, LedgerSource>;
}

export interface HistoryInput {
  readonly type: string;
  readonly id: string;
  /** Only runs before this one: the `next` of the page before. */
  readonly before?: string | null;
  readonly limit?: number;
}

const PAGE = 50;

/** A record's history, the latest first, page by page. Its making closes the last page. */
export function getHistory(
  workspace: LoadedWorkspace,
  { type, id, before = null, limit = PAGE }: HistoryInput,
): Promise<History> {
  return inSnapshot(async (transaction) => {
    await findRow(transaction, workspace, type, id, true);
    const s = quote(workspace.schema);
    const stored = await run<Stored>(
      transaction,
      `SELECT ${RUN_COLUMNS}, l.event, l.changes, l.sources FROM ${s}._ledger l JOIN ${s}._run r ON r.id = l.run
        WHERE l.type = $1 AND l.record = $2 AND ($3::bigint IS NULL OR l.run < $3::bigint) ORDER BY l.run DESC LIMIT $4`,
      [type, id, before, limit + 1],
    );
    const hasMore = stored.length > limit;
    const made = hasMore ? [] : await makingOf(transaction, workspace, type, id);
    const entries = [...stored.slice(0, limit), ...made];
    const logged = entries.map((entry) => ({ ...entry, type }));
    const words = await readLedgerWords(transaction, workspace, logged);
    return {
      entries: entries.map((entry) => viewOf(workspace, type, entry, words)),
      next: hasMore ? lastIn(entries).run : null,
    };
  });
}

/** Creations aren't in the ledger: the record itself names the run that made it, and what a rule made is noted with it. */
const makingOf = (
  transaction: Transaction,
  { schema }: LoadedWorkspace,
  type: string,
  id: string,
): Promise<Stored[]> =>
  run<Stored>(
    transaction,
    `SELECT ${RUN_COLUMNS}, 'created' AS event, '{}'::jsonb AS changes,
        CASE WHEN m.made IS NULL THEN '{}'::jsonb ELSE jsonb_build_object('', ${MADE_SOURCE}) END AS sources
      FROM ${tableOf(schema, type)} t JOIN ${quote(schema)}._run r ON r.id = t.created_run
      LEFT JOIN ${quote(schema)}._made_ever m ON m.made = t.id WHERE t.id = $1 LIMIT 1`,
    [id],
  );

function viewOf(workspace: LoadedWorkspace, type: string, entry: Stored, words: LedgerWords): HistoryEntry {
  const { model } = workspace;
  const view = (field: string, wire: unknown) => loggedValue(model, { type, field }, wire, words);
  const cause = ({ type: of, id, field }: CellRef): string => {
    const title = words.titles[id] ?? id;
    return field === '' ? `${typeName(model, of)} ${title}` : `${fieldName(model, of, field)} of ${title}`;
  };
  return {
    ...headOf(workspace, entry),
    event: entry.event,
    rule: ruleOf(entry.sources[''], words),
    causes: entry.sources['']?.causes.map(cause) ?? [],
    changes: Object.entries(entry.changes).map(([key, [before, after]]) => {
      const source = entry.sources[key];
      return {
        ...{
          field: key,
          fieldName: fieldName(model, type, key),
          before: view(key, before),
          after: view(key, after),
        },
        rule: ruleOf(source, words),
        causes: source?.causes.map(cause) ?? [],
      };
    }),
  };
}

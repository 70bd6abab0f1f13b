import { fieldIn, typeIn } from '@/core/model';
import type { CellRef } from '@/core/engine';
import type { HistoryEntry } from '@/core/verify';
import { inSnapshot } from '../store/transactions';
import { quote, run, tableOf } from '../store/sql';
import type { LoadedWorkspace } from '../store/workspace';
import type { LedgerSource, RunInfo } from '../store/run-writer';
import { findRow } from './records';
import { type LedgerWords, loggedValue, readLedgerWords, ruleOf } from './ledger-words';

interface Stored {
  run: string;
  at: string;
  kind: RunInfo['kind'];
  person: string | null;
  note: string;
  event: HistoryEntry['event'];
  changes: Record<string, [unknown, unknown]>;
  sources: Record<string, LedgerSource>;
}

const MOST_ENTRIES = 200;

/** A record's history, the latest first. Its making closes it. */
export function getHistory(workspace: LoadedWorkspace, type: string, id: string): Promise<HistoryEntry[]> {
  return inSnapshot(async (transaction) => {
    await findRow(transaction, workspace, type, id, true);
    const s = quote(workspace.schema);
    const at = `to_char(r.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') AS at`;
    const stored = await run<Stored>(
      transaction,
      `SELECT l.run::text, ${at}, r.kind, r.person::text, r.note, l.event, l.changes, l.sources
        FROM ${s}.ledger l JOIN ${s}.run r ON r.id = l.run WHERE l.type = $1 AND l.record = $2 ORDER BY l.run DESC LIMIT ${MOST_ENTRIES}`,
      [type, id],
    );
    const [made] = await run<Stored>(
      transaction,
      `SELECT r.id::text AS run, ${at}, r.kind, r.person::text, r.note, 'created' AS event, '{}'::jsonb AS changes, '{}'::jsonb AS sources
        FROM ${tableOf(workspace.schema, type)} t JOIN ${s}.run r ON r.id = t.created_run WHERE t.id = $1`,
      [id],
    );
    const entries = made ? [...stored, made] : stored;
    const logged = entries.map((entry) => ({ ...entry, type }));
    const words = await readLedgerWords(transaction, workspace, logged);
    return entries.map((entry) => viewOf(workspace, type, entry, words));
  });
}

function viewOf(workspace: LoadedWorkspace, type: string, entry: Stored, words: LedgerWords): HistoryEntry {
  const { model } = workspace;
  const view = (field: string, wire: unknown) => loggedValue(model, { type, field }, wire, words);
  const cause = ({ type: of, id, field }: CellRef): string => {
    const title = words.titles[id] ?? id;
    return field === ''
      ? `${typeIn(model, of).name} ${title}`
      : `${fieldIn(model, of, field).name} of ${title}`;
  };
  return {
    ...{ run: entry.run, at: entry.at, kind: entry.kind, event: entry.event, note: entry.note },
    person: entry.person === null ? null : (workspace.people.get(entry.person) ?? entry.person),
    changes: Object.entries(entry.changes).map(([key, [before, after]]) => {
      const source = entry.sources[key];
      return {
        ...{
          field: key,
          fieldName: fieldIn(model, type, key).name,
          before: view(key, before),
          after: view(key, after),
        },
        rule: ruleOf(source, words),
        causes: source?.causes.map(cause) ?? [],
      };
    }),
  };
}

import { fieldIn, typeIn } from '@/core/model';
import type { CellRef } from '@/core/engine';
import { parseValue } from '@/core/values';
import { type HistoryEntry, valueView, type ValueView } from '@/core/verify';
import type { Transaction } from 'sequelize';
import { inSnapshot } from '../store/transactions';
import { quote, run, tableOf } from '../store/sql';
import type { LoadedWorkspace } from '../store/workspace';
import type { LedgerSource, RunInfo } from '../store/run-writer';
import { findRow } from './records';
import { readTitles, Wanted } from './titles';

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
    const words = await wordsFor(transaction, workspace, type, entries);
    return entries.map((entry) => viewOf(workspace, type, entry, words));
  });
}

interface Words {
  readonly titles: Record<string, string>;
  readonly rules: Record<string, { readonly id: string; readonly name: string }>;
}

/** Titles of the causes and of linked records, and names of the rules, for all entries at once. */
async function wordsFor(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  type: string,
  entries: readonly Stored[],
): Promise<Words> {
  const sources = entries.flatMap((entry) => Object.values(entry.sources));
  const versions = [...new Set(sources.flatMap((source) => source.ruleVersion ?? []))];
  const found = await run<{ version: string; id: string; name: string }>(
    transaction,
    `SELECT v.id::text AS version, r.id::text AS id, r.name FROM ${quote(workspace.schema)}.rule_version v
      JOIN ${quote(workspace.schema)}.rule r ON r.id = v.rule WHERE v.id = ANY($1::uuid[])`,
    [versions],
  );
  const wanted = new Wanted();
  for (const { type: of, id } of sources.flatMap((source) => source.causes)) wanted.add(of, id);
  for (const [key, values] of entries.flatMap((entry) => Object.entries(entry.changes))) {
    const field = workspace.model.field(type, key);
    if (field?.type.kind === 'link') for (const value of values) wanted.add(field.type.target, value);
  }
  const titles = {
    ...Object.fromEntries(workspace.people),
    ...(await readTitles(transaction, workspace, wanted)),
  };
  return { titles, rules: Object.fromEntries(found.map(({ version, id, name }) => [version, { id, name }])) };
}

function viewOf(
  workspace: LoadedWorkspace,
  type: string,
  entry: Stored,
  { titles, rules }: Words,
): HistoryEntry {
  const { model } = workspace;
  const view = (key: string, wire: unknown): ValueView => {
    const field = fieldIn(model, type, key);
    const parsed = parseValue(field.type, wire);
    return parsed.ok
      ? valueView(field.type, parsed.value, (id) => titles[id])
      : { wire: null, text: String(wire) };
  };
  const cause = ({ type: of, id, field }: CellRef): string => {
    const title = titles[id] ?? id;
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
        rule: source?.ruleVersion ? (rules[source.ruleVersion] ?? null) : null,
        causes: source?.causes.map(cause) ?? [],
      };
    }),
  };
}

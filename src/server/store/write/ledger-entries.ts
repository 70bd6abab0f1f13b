import { toWire } from '@/core/values';
import { type CellRef, type Change, recordKey, type Write } from '@/core/engine';
import { fieldIn } from '@/core/model';
import { rulesById } from '@/core/plan';
import { type Binds, constant } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

export const entryValues = ({ type, record, event, changes, sources }: LedgerEntry, binds: Binds): string =>
  `(${[
    constant(type),
    binds.record(record),
    constant(event),
    binds.add(JSON.stringify(changes), 'jsonb'),
    Object.keys(sources).length === 0 ? "'{}'::jsonb" : binds.add(JSON.stringify(sources), 'jsonb'),
  ].join(', ')})`;

/** Many came by the same: each different source is told once. */
export function entriesTogether(entries: readonly LedgerEntry[], binds: Binds): string {
  const causesSeen = new Map<LedgerSource['causes'], number>();
  const keyOf = ([field, { wave, ruleVersion, causes }]: [string, LedgerSource]): string => {
    let seen = causesSeen.get(causes);
    if (seen === undefined) causesSeen.set(causes, (seen = causesSeen.size));
    return `${field} ${wave} ${ruleVersion} ${seen}`;
  };
  const different = new Map<string, { readonly at: number; readonly sources: LedgerEntry['sources'] }>();
  const documents = entries.map(({ type, record, event, changes, sources }) => {
    const key = Object.entries(sources).map(keyOf).join('; ');
    let known = different.get(key);
    if (!known) different.set(key, (known = { at: different.size, sources }));
    return { type, record, event, changes, source: known.at };
  });
  const told = [...different.values()].map(({ at, sources }) => ({ at, sources }));
  const document = (of: readonly unknown[]) => binds.add(JSON.stringify(of), 'jsonb');
  return `(SELECT e.type, e.record, e.event, e.changes, s.sources
      FROM jsonb_to_recordset(${document(documents)}) AS e(type text, record uuid, event text, changes jsonb, source integer)
      JOIN jsonb_to_recordset(${document(told)}) AS s(at integer, sources jsonb) ON s.at = e.source) x`;
}

/** Where a change in the ledger came from, when nobody entered it: a rule, or a link policy (without a version). */
export interface LedgerSource {
  readonly wave: number;
  readonly ruleVersion: string | null;
  readonly causes: readonly CellRef[];
}

/** What a run did to a record that was there before. */
export interface LedgerEntry {
  readonly type: string;
  readonly record: string;
  readonly event: 'changed' | 'deleted' | 'restored';
  readonly changes: Record<string, readonly [unknown, unknown]>;
  readonly sources: Record<string, LedgerSource>;
}

const EVENTS = { edit: 'changed', delete: 'deleted', restore: 'restored' } as const;

/**
 * One entry for each record and run. Records that the run makes aren't copied: they carry the run that made them, and their
 * first values are read backwards from what stands there now.
 */
export function ledgerEntries({ model, plan }: LoadedWorkspace, writes: readonly Write[]): LedgerEntry[] {
  const entries = new Map<string, LedgerEntry>();
  const created = new Set(writes.filter((write) => write.kind === 'create').map(recordKey));
  const versionOf = (rule: string) => rulesById(plan).get(rule)?.version ?? null;
  const wire = (change: Change, value: Change['after']) =>
    toWire(fieldIn(model, change.type, change.field).type, value);
  for (const write of writes) {
    const key = recordKey(write);
    if (created.has(key) || write.kind === 'create' || write.changes.length + write.events.length === 0)
      continue;
    const event = EVENTS[write.kind];
    const known = entries.get(key);
    const entry =
      known && (event === 'changed' || known.event === event)
        ? known
        : {
            type: write.type,
            record: write.id,
            event,
            changes: { ...known?.changes },
            sources: { ...known?.sources },
          };
    for (const change of write.changes) {
      const { field, wave, rule, version, causes, before, after } = change;
      // A rule may write over what was entered in the same run: from what was there before.
      const [first] = entry.changes[field] ?? [wire(change, before), null];
      entry.changes[field] = [first, wire(change, after)];
      if (rule !== null || causes.length > 0)
        entry.sources[field] = {
          wave,
          ruleVersion: rule === null ? null : (version ?? versionOf(rule)),
          causes,
        };
    }
    for (const { wave, causes, rule } of write.events)
      if (causes.length > 0)
        entry.sources[''] = {
          wave,
          ruleVersion: rule === undefined ? null : versionOf(rule),
          causes,
        };
    entries.set(key, entry);
  }
  return [...entries.values()];
}

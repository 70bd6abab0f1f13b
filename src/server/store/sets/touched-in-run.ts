import type { ChangedPage, Row, TouchedInRun } from '@/core/engine';
import { fieldIn, type Model } from '@/core/model';
import { lastIn, parseValue, type Value } from '@/core/values';
import type { Transaction } from 'sequelize';
import { Binds, quote, run, tableOf } from '@/server/store/sql/sql';
import { readRows } from '@/server/store/sql/columns';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

export interface TouchedQuery {
  readonly run: string;
  readonly type: string;
  /** Fields of which one must have changed; `null` for any. */
  readonly watched: readonly string[] | null;
  /** Which records that the run made are told: a condition in SQL on `t` and its joins; `null` for none. With them those that came out of the bin. */
  readonly made: ((binds: Binds) => { readonly where: string; readonly joins: string }) | null;
  /** Records that went into the bin are told too. */
  readonly isGoneTold?: boolean;
  /** Only those of these. */
  readonly among?: readonly string[];
  readonly after: string;
  readonly most: number;
}

export const ALL_MADE = () => ({ where: 'true', joins: '' });

/** Records that a run over many made or changed, as they were and as they stand, in the order of their ids: the ledger and the run's own records tell. */
export async function touchedInRun(
  transaction: Transaction,
  workspace: LoadedWorkspace,
  { run: runId, type, watched, made, isGoneTold = false, among, after, most }: TouchedQuery,
): Promise<ChangedPage> {
  const { model, schema } = workspace;
  type Changes = Record<string, [unknown, unknown]>;
  const binds = new Binds();
  const inRun = binds.add(runId, 'bigint');
  const which = made?.(binds);
  const onward = after === '' ? '' : ` > ${binds.add(after, 'uuid')}`;
  // Each part is read in the order of an index, as far as the page goes.
  const page = (id: string) =>
    `${onward && ` AND ${id}${onward}`}${among ? ` AND ${id} = ANY(${binds.add(among, 'uuid[]')})` : ''} ORDER BY ${id} LIMIT ${most}`;
  const madeSql = which
    ? `(SELECT t.id, NULL::jsonb AS changes, NULL::jsonb AS sources, 'created' AS event FROM ${tableOf(schema, type)} t ${which.joins}
      WHERE t.created_run = ${inRun} AND t.deleted_run IS NULL AND (${which.where})${page('t.id')}) UNION ALL `
    : '';
  const fields = binds.add(watched, 'text[]');
  const found = await run<{ id: string; changes: Changes | null; sources: object | null; event: string }>(
    transaction,
    `SELECT x.id::text, changes, sources, event FROM (
        ${madeSql}(SELECT l.record AS id, changes, sources, event FROM ${quote(schema)}._ledger l
          WHERE run = ${inRun} AND type = ${binds.add(type, 'text')}
            AND (event = 'changed' AND (${fields} IS NULL OR changes ?| ${fields}) OR ${binds.add(isGoneTold, 'boolean')} AND event = 'deleted'
              OR ${binds.add(made !== null, 'boolean')} AND event = 'restored')${page('l.record')})
      ) x ORDER BY x.id LIMIT ${most}`,
    binds.values,
  );
  const ids = found.map(({ id }) => id);
  const rows = new Map((await readRows(transaction, workspace, type, ids)).map((row) => [row.id, row]));
  const touched = found.flatMap(({ id, changes, sources, event }): TouchedInRun[] => {
    const now = rows.get(id);
    if (!now || now.deleted !== (event === 'deleted')) return [];
    const keys = Object.keys(changes ?? {});
    return [
      {
        ...{ type, id, after: now, fields: new Set(keys) },
        before: changes && { ...before(model, now, changes), deleted: event === 'restored' },
        // An empty cell isn't entered.
        written: changes
          ? keys.filter((field) => !(field in (sources ?? {})))
          : Object.keys(now.values).filter((field) => now.values[field] !== null),
      },
    ];
  });
  return { touched, next: found.length < most ? null : lastIn(found).id };
}

function before(model: Model, row: Row, changes: Record<string, [unknown, unknown]>): Row {
  const was = Object.entries(changes).map(([field, [wire]]): [string, Value] => {
    const parsed = parseValue(fieldIn(model, row.type, field).type, wire);
    return [field, parsed.ok ? parsed.value : null];
  });
  return { ...row, deleted: false, values: { ...row.values, ...Object.fromEntries(was) } };
}

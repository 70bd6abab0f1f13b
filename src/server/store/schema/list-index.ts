import { firstIn } from '@/core/values';
import { createHash } from 'node:crypto';
import { typeIn } from '@/core/model';
import { Client } from 'pg';
import { log } from '@/server/log';
import { columnOf, indexName, quote, tableOf } from '@/server/store/sql/sql';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** An index that a list would be quicker with. */
export interface ListIndex {
  readonly schema: string;
  readonly name: string;
  readonly table: string;
  /** What follows the table's name in CREATE INDEX. */
  readonly on: string;
  readonly extension?: string;
}

/** Records of a type in the order of an expression over its columns. */
export const orderIndex = (workspace: LoadedWorkspace, type: string, by: string): ListIndex =>
  indexOf(workspace, type, 'order', `((${by}), id)`);

/** Titles that hold some text: by all runs of three characters in them. */
export const searchIndex = (workspace: LoadedWorkspace, type: string): ListIndex => ({
  ...indexOf(
    workspace,
    type,
    'search',
    `USING gin (lower(${columnOf(typeIn(workspace.model, type).title)}) public.gin_trgm_ops)`,
  ),
  extension: 'pg_trgm',
});

function indexOf({ schema }: LoadedWorkspace, type: string, what: string, on: string): ListIndex {
  const hash = createHash('sha256').update(on).digest('hex').slice(0, 8);
  const name = indexName(type, `${what}_${hash}`);
  return { schema, name, table: tableOf(schema, type), on: `${on} WHERE deleted_run IS NULL` };
}

/** Fewer records are sorted and searched quickly enough as they are. */
export const FEWEST_RECORDS = 50_000;
/** Milliseconds until a table that was too small, or an index that failed, is looked at again. */
const AGAIN_AFTER = 600_000;

const seen = new Map<string, number>();

/**
 * Sees to an index that a list has just done without, while people go on working: only where there are many records, and only
 * for orders and searches that somebody uses, because every index makes saves and imports dearer.
 */
export function makeSoon(index: ListIndex): void {
  const key = `${index.schema}.${index.name}`;
  const last = seen.get(key);
  if (last !== undefined && Date.now() - last < AGAIN_AFTER) return;
  seen.set(key, Date.now());
  makeIndex(index).catch((error: unknown) => {
    if ((error as { code?: string }).code === '42P01') return; // its workspace has been removed meanwhile
    log.warn(
      { err: error, index: key },
      'an index for lists could not be made; they work without it, slowly',
    );
  });
}

/**
 * Makes the index unless it is there, or the table is small, or another process is at it; nobody's save waits for it. Answers
 * whether it is there now. One that was broken off (its process was killed) is made anew.
 */
export async function makeIndex(index: ListIndex, fewest = FEWEST_RECORDS): Promise<boolean> {
  const { schema, name, table, on, extension } = index;
  const client = new Client({
    connectionString: process.env.DATABASE_URL,
    application_name: 'oikon lists',
  });
  await client.connect();
  try {
    const own = [`${schema}.${name}`];
    const lock = await client.query<{ held: boolean }>(
      'SELECT pg_try_advisory_lock(hashtextextended($1, 0)) AS held',
      own,
    );
    if (!firstIn(lock.rows).held) return false;
    const known = await client.query<{ indisvalid: boolean }>(
      `SELECT x.indisvalid FROM pg_index x JOIN pg_class c ON c.oid = x.indexrelid
        JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relname = $2`,
      [schema, name],
    );
    if (known.rows[0]?.indisvalid) return true;
    const size = await client.query<{ size: number }>(
      `SELECT count(*)::int AS size FROM (SELECT 1 FROM ${table} LIMIT ${Number(fewest)}) x`,
    );
    if (firstIn(size.rows).size < fewest) return false;
    if (extension) await client.query(`CREATE EXTENSION IF NOT EXISTS ${quote(extension)} SCHEMA public`);
    const full = `${quote(schema)}.${quote(name)}`;
    if (known.rows.length > 0) await client.query(`DROP INDEX CONCURRENTLY ${full}`);
    await client.query(`CREATE INDEX CONCURRENTLY ${quote(name)} ON ${table} ${on}`);
    await client.query(`ANALYZE ${table}`);
    return true;
  } finally {
    await client.end();
  }
}

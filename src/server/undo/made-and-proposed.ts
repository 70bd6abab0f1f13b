import { firstIn } from '@/core/values';
import { quote, run, tableOf } from '@/server/store/sql/sql';
import { RECORDS, type Undoing } from './staged';

/**
 * What else the run left: which records rules made for which, so that they may make them anew; what rules proposed, and messages that wait to be
 * sent. All of it comes back where the undo itself is undone, but for messages.
 */
export async function takeBackMade(
  { transaction, workspace, run: id }: Undoing,
  undoneBy: string,
): Promise<void> {
  const s = quote(workspace.schema);
  const columns = 'rule, version, source_type, source, made, is_once, wave, run';
  await run(
    transaction,
    `WITH taken AS (
        DELETE FROM ${s}._made m USING ${RECORDS} r WHERE r.id = m.made AND r.what = 'delete' AND r.why IS NULL
          AND (m.run = $1 OR EXISTS (SELECT FROM ${s}._unmade u WHERE u.made = m.made AND u.rule = m.rule AND u.redone_by = $1)) RETURNING m.*
      ) INSERT INTO ${s}._unmade (${columns}, undone_by) SELECT ${columns}, $2::bigint FROM taken
        ON CONFLICT (made, rule) DO UPDATE SET undone_by = excluded.undone_by, redone_by = NULL`,
    [id, undoneBy],
  );
  await run(
    transaction,
    `WITH back AS (
        UPDATE ${s}._unmade u SET redone_by = $2 FROM ${RECORDS} r
          WHERE u.undone_by = $1 AND u.redone_by IS NULL AND r.id = u.made AND r.what = 'restore' AND r.why IS NULL RETURNING u.*
      ) INSERT INTO ${s}._made (${columns}) SELECT ${columns} FROM back`,
    [id, undoneBy],
  );
  await takeBackProposals(transaction, s, id, undoneBy);
  await run(transaction, `DELETE FROM ${s}._message WHERE run = $1 AND sent_at IS NULL`, [id]);
}

/** What goes into the bin again lies there as it did: by the run that had put it there. */
export async function settleBin(
  { transaction, workspace }: Undoing,
  undoneBy: string,
  types: readonly string[],
): Promise<void> {
  await run(
    transaction,
    `INSERT INTO ${quote(workspace.schema)}._put_again (record, run, in_run)
      SELECT id, $1, in_run FROM ${RECORDS} WHERE what = 'delete' AND why IS NULL AND in_run IS NOT NULL`,
    [undoneBy],
  );
  for (const type of types)
    await run(
      transaction,
      `UPDATE ${tableOf(workspace.schema, type)} t SET deleted_run = r.in_run FROM ${RECORDS} r
        WHERE r.type = $1 AND r.id = t.id AND r.what = 'delete' AND r.why IS NULL AND r.in_run IS NOT NULL`,
      [type],
    );
}

async function takeBackProposals(
  transaction: Undoing['transaction'],
  s: string,
  id: string,
  undoneBy: string,
): Promise<void> {
  // What the run proposed is open no more; where it only added to what was proposed already, that stands again.
  await run(
    transaction,
    `UPDATE ${s}._proposal SET content = earlier -> 'content', missing = earlier -> 'missing', causes = earlier -> 'causes',
        version = (earlier ->> 'version')::uuid, run = (earlier ->> 'run')::bigint, earlier = NULL
      WHERE run = $1 AND state = 'open' AND earlier IS NOT NULL`,
    [id],
  );
  await run(
    transaction,
    `UPDATE ${s}._proposal SET was = state, state = 'withdrawn', decided_at = clock_timestamp(), decided_run = $2 WHERE run = $1 AND state IN ('open', 'told')`,
    [id, undoneBy],
  );
  // What it withdrew, or did as approved, is open again, unless the same was proposed since.
  await run(
    transaction,
    `UPDATE ${s}._proposal p SET state = COALESCE(p.was, 'open'), was = NULL, decided_by = NULL, decided_at = NULL, decided_run = NULL, reason = NULL
      WHERE p.decided_run = $1 AND p.state IN ('withdrawn', 'approved') AND p.run <> $1
        AND NOT (p.is_single AND EXISTS (SELECT FROM ${s}._proposal o WHERE o.state = 'open' AND o.is_single AND o.rule = p.rule AND o.source = p.source
          AND o.kind = p.kind AND o.target IS NOT DISTINCT FROM p.target))
        AND EXISTS (SELECT FROM ${s}._rule r WHERE r.id = p.rule AND r.state = 'live')`,
    [id],
  );
  // What is made already, since that came back, needs nobody's word.
  await run(
    transaction,
    `UPDATE ${s}._proposal p SET was = p.state, state = 'withdrawn', decided_at = clock_timestamp(), decided_run = $1
      FROM ${s}._made m JOIN ${RECORDS} r ON r.id = m.made AND r.what = 'restore' AND r.why IS NULL
      WHERE p.state = 'open' AND p.kind = 'make' AND p.is_single AND p.rule = m.rule AND p.source = m.source`,
    [undoneBy],
  );
}

/** Messages of the run that people have been sent. */
export async function messagesSent({ transaction, logged, run: id }: Undoing): Promise<number> {
  const found = firstIn(
    await run<{ sent: number }>(
      transaction,
      `SELECT count(*)::int AS sent FROM ${quote(logged)}._message WHERE run = $1 AND sent_at IS NOT NULL`,
      [id],
    ),
  );
  return found.sent;
}

/**
 * What becomes of a record's entry that a run has in the ledger already, as `l`, when it gets another: of a field that is changed again what was there
 * before the run stays, and where it came from is told anew.
 */
export const MERGE_ENTRY = ` ON CONFLICT (type, record, run) DO UPDATE SET
  changes = l.changes || excluded.changes || COALESCE((
    SELECT jsonb_object_agg(x.key, jsonb_build_array(l.changes -> x.key -> 0, x.value -> 1))
      FROM jsonb_each(excluded.changes) x WHERE l.changes ? x.key), '{}'),
  sources = l.sources || excluded.sources`;

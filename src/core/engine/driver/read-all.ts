import { type Answer, type Answers, type Need, rowSet } from '@/core/engine/driver/need';
import { recordKey, type RecordRef, type Row } from '@/core/engine/driver/record';

/** Rows by key, one need for each type. */
export function* readAll(refs: readonly RecordRef[]): Generator<Need, Map<string, Row>, Answer> {
  const idsOf = new Map<string, string[]>();
  for (const { type, id } of refs) {
    const ids = idsOf.get(type);
    if (ids) ids.push(id);
    else idsOf.set(type, [id]);
  }
  const rows = new Map<string, Row>();
  for (const [type, ids] of idsOf) {
    const answer = (yield { kind: 'records', set: rowSet(type, ids) }) as Answers['records'];
    for (const row of answer.rows.values()) rows.set(recordKey(row), row);
  }
  return rows;
}

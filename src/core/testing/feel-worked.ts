import { MemoryStore, readerOf, type Row } from '@/core/engine';
import { evaluatorOf, Failure, OUTSIDE, typeValue } from '@/core/expression';
import { CASE_ID, CASES_MODEL, CASES_ROWS, printValue } from './feel-cases';

const store = new MemoryStore(CASES_MODEL, true);
CASES_ROWS.forEach((row) => store.put(row));
const reader = readerOf(CASES_MODEL, store);

/** What FEEL text comes to in the core on a record, the crate of the cases at first; or what is wrong with it. */
export function workedInCore(text: string, at: Row = store.row('thing', CASE_ID)!): string {
  const typed = typeValue(CASES_MODEL, 'thing', { kind: 'feel', text });
  if (!typed.ok) return `? ${typed.problem.message}`;
  const value = evaluatorOf(typed.value)(at, reader.given, reader.beneath);
  if (value === OUTSIDE) return 'outside';
  return value instanceof Failure ? `!${value.code}` : printValue(value);
}

import type { Edit, Row } from '@/core/engine';
import type { Model } from '@/core/model';
import type { Plan } from '@/core/plan';
import type { Value } from '@/core/values';
import { reactPlainly, workOutPlainly } from './plain';

const print = (value: Value | 'error'): string => JSON.stringify(value);

/** Every kept value of records that are there: `id field` → the value, or that it is in error. */
export function keptIn(plan: Plan, rows: readonly Row[]): Record<string, string> {
  return keptBy(plan, rows, (row, field) => (row.errors[field] ? 'error' : (row.values[field] ?? null)));
}

/** The same as the plain evaluator works it out from the records as they stand. */
export function keptPlainly(model: Model, plan: Plan, rows: readonly Row[]): Record<string, string> {
  const worked = workOutPlainly(model, plan, rows);
  return keptBy(plan, rows, (row, field) => worked.get(`${row.type} ${row.id}`)![field] ?? null);
}

/** What stands in the targets of rules that react, and what must after a run from `before` by `edits`. */
export function reactedIn(
  model: Model,
  plan: Plan,
  { before, after, edits }: { before: readonly Row[]; after: readonly Row[]; edits: readonly Edit[] },
): { found: Record<string, string>; expected: Record<string, string> } {
  const expected = [...reactPlainly(model, plan, before, after, edits)];
  const stored = new Map(after.map((row) => [row.id, row]));
  const found = expected.map(([key]) => {
    const [id, field] = key.split(' ') as [string, string];
    return [key, print(stored.get(id)!.values[field] ?? null)];
  });
  return {
    found: Object.fromEntries(found),
    expected: Object.fromEntries(expected.map(([key, value]) => [key, print(value)])),
  };
}

function keptBy(
  plan: Plan,
  rows: readonly Row[],
  valueOf: (row: Row, field: string) => Value | 'error',
): Record<string, string> {
  return Object.fromEntries(
    rows
      .filter((row) => !row.deleted)
      .flatMap((row) =>
        plan.rules
          .filter(({ writes }) => writes.type === row.type)
          .map(({ writes }) => [`${row.id} ${writes.field}`, print(valueOf(row, writes.field))]),
      )
      .sort(([a], [b]) => (a! < b! ? -1 : 1)),
  );
}

/** Rows in one order, as text: two stores that hold the same print the same. */
export const printRows = (rows: readonly Row[]): string =>
  [...rows]
    .sort((a, b) => (a.id < b.id ? -1 : 1))
    .map(({ type, id, version, deleted, values, errors }) => {
      const sorted = (of: object) => JSON.stringify(Object.entries(of).sort(([a], [b]) => (a < b ? -1 : 1)));
      return `${type} ${id} v${version}${deleted ? ' deleted' : ''} ${sorted(values)} ${sorted(errors)}`;
    })
    .join('\n');

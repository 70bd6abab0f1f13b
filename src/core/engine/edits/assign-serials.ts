import { type Model, typeIn } from '@/core/model';
import { certain, Decimal, valueAt } from '@/core/values';
import type { Entry } from './types';
import { ask, type Answer, type Need } from '@/core/engine/driver/need';
import { recordKey, rowWith } from '@/core/engine/driver/record';

/**
 * Gives new records their serial numbers, in the order of the edits that make them. Where the next number isn't known, as in a
 * family, they stay without one until they are saved.
 */
export function* assignSerials(
  model: Model,
  entries: ReadonlyMap<string, Entry>,
): Generator<Need, ReadonlyMap<string, Entry>, Answer> {
  const made = [...entries.values()]
    .filter(({ kind, type }) => kind === 'create' && serialsOf(model, type).length > 0)
    .sort((a, b) => a.index - b.index);
  if (made.length === 0) return entries;
  const numbered = new Map(entries);
  for (const type of [...new Set(made.map((entry) => entry.type))].sort())
    for (const field of serialsOf(model, type)) {
      const wanting = made.filter((entry) => entry.type === type);
      const first = yield* ask<'serials'>({ kind: 'serials', type, field, count: wanting.length });
      if (first === null) continue;
      for (const [at, { type: of, id }] of wanting.entries()) {
        const key = recordKey({ type: of, id });
        const entry = valueAt(numbered, key);
        const after = certain(entry.after);
        numbered.set(key, {
          ...entry,
          after: rowWith(after, { ...after.values, [field]: new Decimal(first).plus(at) }),
          fields: new Set([...entry.fields, field]),
        });
      }
    }
  return numbered;
}

/** By serial field, the first of so many numbers for records that a rule makes; left out where it isn't known. */
export function* firstNumbers(
  model: Model,
  type: string,
  count: number,
): Generator<Need, ReadonlyMap<string, Decimal>, Answer> {
  const first = new Map<string, Decimal>();
  if (count === 0) return first;
  for (const field of serialsOf(model, type)) {
    const next = yield* ask<'serials'>({ kind: 'serials', type, field, count });
    if (next !== null) first.set(field, new Decimal(next));
  }
  return first;
}

const serialsOf = (model: Model, type: string): string[] =>
  typeIn(model, type).fields.flatMap(({ key, type: of }) => (of.kind === 'serial' ? [key] : []));

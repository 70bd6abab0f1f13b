import { type Model, typeIn } from '@/core/model';
import { sameData } from '@/core/values';
import type { WireRecord } from '@/core/verify';
import { everyWord } from '@/ui/kit/every-word';

/** What of a family is shown: all of it, or some records with what they hang under. */
export type InSight = ReadonlySet<string> | null;

/** Some records with all that they hang under in the family, whichever link leads there. */
export function withAncestors(
  model: Model,
  records: readonly WireRecord[],
  wanted: ReadonlySet<string>,
): ReadonlySet<string> {
  const byId = new Map(records.map((record) => [record.id, record]));
  const found = new Set<string>();
  const open = [...wanted];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    const record = byId.get(id);
    if (!record || found.has(id)) continue;
    found.add(id);
    for (const { link } of model.linksFrom(record.type)) {
      const parent = record.values[link];
      if (typeof parent === 'string') open.push(parent);
    }
  }
  return found;
}

/** Records whose titles hold every word of a text, whatever the case. */
export function titled(model: Model, records: readonly WireRecord[], search: string): ReadonlySet<string> {
  const holds = everyWord(search);
  return new Set(
    records
      .filter(({ type, values }) => holds(String(values[typeIn(model, type).title] ?? '')))
      .map(({ id }) => id),
  );
}

/** Which fields of each type are otherwise than they are stored, on any record; of a new record all that it holds. */
export function changedFields(
  changed: readonly WireRecord[],
  stored: ReadonlyMap<string, WireRecord>,
): ReadonlyMap<string, ReadonlySet<string>> {
  const fields = new Map<string, Set<string>>();
  for (const { id, type, values } of changed) {
    const known = fields.get(type) ?? new Set<string>();
    const before = stored.get(id)?.values ?? {};
    for (const [key, value] of Object.entries(values))
      if (!sameData(before[key] ?? null, value)) known.add(key);
    fields.set(type, known);
  }
  return fields;
}

/** What records are called, by their ids; those without a text for a title are left out. */
export const titlesIn = (model: Model, records: readonly WireRecord[]): ReadonlyMap<string, string> =>
  new Map(
    records.flatMap(({ type, id, values }) => {
      const title = values[typeIn(model, type).title];
      return typeof title === 'string' ? [[id, title] as const] : [];
    }),
  );

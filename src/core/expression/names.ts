import { itemAt } from '@/core/values';
import { keyOf, type Link, type Model, typeIn } from '@/core/model';

/** What a record calls those beneath it over a link, as one word: `Loans` is `loans`, `Crates inside` is `cratesInside`. */
export interface ListName {
  readonly name: string;
  readonly link: Link;
}

const known = new WeakMap<Model, Map<string, readonly ListName[]>>();

/** The lists of records beneath a type; a name that a field has already gets a number. */
export function listNames(model: Model, type: string): readonly ListName[] {
  let names = known.get(model);
  if (!names) known.set(model, (names = new Map<string, readonly ListName[]>()));
  let found = names.get(type);
  if (!found) {
    const taken = new Set(typeIn(model, type).fields.map(({ key }) => key));
    found = model.linksTo(type).map((link) => {
      const name = keyOf(link.field.otherEnd ?? typeIn(model, link.type).plural, taken);
      taken.add(name);
      return { name, link };
    });
    names.set(type, found);
  }
  return found;
}

/** The nearest of some names to one that isn't there, where one is near enough to be meant (Levenshtein 1966). */
export function nearest(wanted: string, names: readonly string[]): string | null {
  const most = Math.max(1, Math.floor(wanted.length / 3));
  let best: string | null = null;
  let least = most + 1;
  for (const name of names) {
    if (Math.abs(name.length - wanted.length) > most) continue;
    const apart = distance(wanted.toLowerCase(), name.toLowerCase());
    if (apart < least) [best, least] = [name, apart];
  }
  return best;
}

function distance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, at) => at);
  for (let i = 1; i <= a.length; i += 1) {
    const next = [i];
    for (let j = 1; j <= b.length; j += 1)
      next.push(Math.min(row[j]! + 1, next[j - 1]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1)));
    row = next;
  }
  return itemAt(row, b.length);
}

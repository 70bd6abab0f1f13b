const MOST = 30;

/** A key from a name: `Insured value (GBP)` → `insuredValueGbp`; with a number after it where that is taken. */
export function keyOf(name: string, taken: ReadonlySet<string>): string {
  const words = name
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .split(/[^a-zA-Z0-9]+/)
    .filter(Boolean)
    .map((word, at) =>
      at === 0 ? word.toLowerCase() : word.charAt(0).toUpperCase() + word.slice(1).toLowerCase(),
    );
  const joined = words
    .join('')
    .replace(/^[0-9]+/, '')
    .slice(0, MOST);
  const base = joined === '' ? 'field' : joined.charAt(0).toLowerCase() + joined.slice(1);
  let key = base;
  for (let number = 2; taken.has(key); number += 1) key = `${base.slice(0, MOST - 3)}${number}`;
  return key;
}

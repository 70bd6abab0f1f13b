import type { Feeding } from '@/core/plan';

/** A rule with all that feeds it, however far back, and all that it feeds, and what feeds what among them. */
export function feedingNear(feeding: readonly Feeding[], id: string): readonly Feeding[] {
  const of = new Map(feeding.map((one) => [one.id, one]));
  const reached = (next: (at: string) => readonly string[]) => {
    const found = new Set([id]);
    for (const at of found) for (const to of next(at)) found.add(to);
    return found;
  };
  const after = reached((at) => of.get(at)?.feeds ?? []);
  const before = reached((at) => feeding.filter(({ feeds }) => feeds.includes(at)).map((one) => one.id));
  const isThere = (one: string) => after.has(one) || before.has(one);
  return feeding
    .filter((one) => isThere(one.id))
    .map((one) => ({ ...one, feeds: one.feeds.filter(isThere) }));
}

import { firstRateDay, OUTSIDE, type Outside, type RateWanted } from '@/core/expression';
import { compareText } from '@/core/values';
import type { RecordStore } from './memory-store';
import type { Row } from './record';

interface Rates {
  readonly revision: number;
  /** By pair, the latest day first; of one day the latest id first. */
  readonly byPair: ReadonlyMap<string, readonly Row[]>;
}

const known = new WeakMap<RecordStore, Rates>();

/** The rate that counts for a pair and a day, as the one row of a list; an empty list where there is none. */
export function rateIn(store: RecordStore, { node, pair, day }: RateWanted): readonly Row[] | Outside {
  const { type, day: dayOf } = node.rates;
  const first = firstRateDay(day);
  if (!store.isWhole && (store.ratesSince === null || first < store.ratesSince)) return OUTSIDE;
  const revision = store.revision(type);
  let rates = known.get(store);
  if (!rates || rates.revision !== revision)
    known.set(store, (rates = { revision, byPair: inOrder(store, node.rates) }));
  const found = rates.byPair.get(pair)?.find((row) => (row.values[dayOf.field] as string) <= day);
  return found && (found.values[dayOf.field] as string) >= first ? [found] : [];
}

function inOrder(
  store: RecordStore,
  { type, pair, day, rate }: RateWanted['node']['rates'],
): Rates['byPair'] {
  const byPair = new Map<string, Row[]>();
  for (const row of store.rows(type)) {
    const of = row.values[pair.field];
    const isRate = row.values[day.field] !== null && row.values[rate.field] !== null;
    if (row.deleted || typeof of !== 'string' || !isRate) continue;
    const rows = byPair.get(of);
    if (rows) rows.push(row);
    else byPair.set(of, [row]);
  }
  const dayIn = (row: Row) => row.values[day.field] as string;
  for (const rows of byPair.values())
    rows.sort((a, b) => compareText(dayIn(b), dayIn(a)) || compareText(b.id, a.id));
  return byPair;
}

import { MemoryStore, type Row } from '@/core/engine';
import { type Model } from '@/core/model';
import { FIRST_DAY } from '@/core/values';
import { allBeneath, type FamilyData, recordToWire } from '@/core/verify/family/family';
import { MADE_UP_PEOPLE } from './input-domain';

/** Made-up records as a family: there is nothing outside it. */
export function madeUpFamily(model: Model, rows: readonly Row[]): FamilyData {
  const [root] = rows;
  if (!root) throw new RangeError('A family has at least one record');
  return {
    ...{ root: { type: root.type, id: root.id }, members: rows.map(({ id }) => id) },
    records: rows.map((row) => recordToWire(model, row)),
    complete: allBeneath(model, rows),
    names: MADE_UP_PEOPLE,
    whole: model.types.map(({ key }) => key),
    ratesSince: FIRST_DAY,
  };
}

/** The store of that family, without the way over its wire form. */
export function madeUpStore(model: Model, rows: readonly Row[]): MemoryStore {
  const store = new MemoryStore(model, false);
  for (const row of rows) store.put(row);
  for (const { parent, ...link } of allBeneath(model, rows)) store.markComplete(link, parent);
  for (const { key } of model.types) store.markAll(key);
  store.ratesSince = FIRST_DAY;
  return store;
}

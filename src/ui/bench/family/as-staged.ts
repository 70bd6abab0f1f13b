import type { Link, Model } from '@/core/model';
import type { FamilyData, WireRecord } from '@/core/verify';
import type { Rehearsed } from '@/ui/workers/rule-worker';

/** A family's members as they would stand with what is staged, found by what they hang under. */
export interface Standing {
  readonly records: readonly WireRecord[];
  childrenOf(link: Pick<Link, 'type' | 'link'>, parent: string): readonly WireRecord[];
}

const NONE: readonly WireRecord[] = [];

/** Puts what a rehearsal changed over the family, in its order; new records come after those of their type. */
export function standing(model: Model, family: FamilyData, { changed, gone }: Rehearsed): Standing {
  const members = new Set(family.members);
  const left = new Set(gone);
  const altered = new Map(changed.map((record) => [record.id, record]));
  const known = family.records.filter(({ id }) => members.has(id) && !left.has(id));
  const seen = new Set(known.map(({ id }) => id));
  const records = [
    ...known.map((record) => altered.get(record.id) ?? record),
    ...changed.filter(({ id }) => !seen.has(id)),
  ];
  const beneath = new Map<string, WireRecord[]>();
  for (const record of records)
    for (const { link } of model.linksFrom(record.type)) {
      const parent = record.values[link];
      if (typeof parent !== 'string') continue;
      const key = `${record.type}.${link} ${parent}`;
      const children = beneath.get(key);
      if (children) children.push(record);
      else beneath.set(key, [record]);
    }
  return {
    records,
    childrenOf: ({ type, link }, parent) => beneath.get(`${type}.${link} ${parent}`) ?? NONE,
  };
}

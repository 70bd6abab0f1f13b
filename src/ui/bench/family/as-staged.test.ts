import fc from 'fast-check';
import { galleries } from '@/core/testing/galleries';
import { cases } from '@/core/testing/cases';
import type { FamilyData, WireRecord } from '@/core/verify';
import { standing } from './as-staged';

const model = galleries();
const TYPES = ['exhibition', 'loan', 'artefact'] as const;
const idsOf = (type: string): string[] => Array.from({ length: 4 }, (_, at) => `${type} ${at}`);

/** A record whose links name others of the family, somebody outside it, or nobody. */
const recordOf = (type: string, id: string): fc.Arbitrary<WireRecord> =>
  fc
    .record(
      Object.fromEntries(
        model
          .linksFrom(type)
          .map(({ link, parent }) => [
            link,
            fc.constantFrom(null, 'elsewhere', ...idsOf(parent).filter((one) => one !== id)),
          ]),
      ),
    )
    .chain((links) =>
      fc.integer({ min: 0, max: 9 }).map((number) => ({
        ...{ type, id, version: 1, deleted: false, errors: {} },
        values: { ...links, title: `${id} ${number}` },
      })),
    );
const all = TYPES.flatMap((type) => idsOf(type).map((id) => ({ type, id })));
const records = (chance: fc.Arbitrary<boolean>) =>
  fc
    .tuple(...all.map(({ type, id }) => fc.tuple(chance, recordOf(type, id))))
    .map((found) => found.flatMap(([isThere, record]) => (isThere ? [record] : [])));
const often = fc.integer({ min: 0, max: 3 }).map((number) => number > 0);
const seldom = fc.integer({ min: 0, max: 3 }).map((number) => number === 0);

/** The same by going over everything. */
function plainly(family: FamilyData, changed: readonly WireRecord[], gone: readonly string[]) {
  const members = family.records.filter(({ id }) => family.members.includes(id) && !gone.includes(id));
  const now = [
    ...members.map((record) => changed.find(({ id }) => id === record.id) ?? record),
    ...changed.filter(({ id }) => !family.members.includes(id)),
  ];
  const names = (record: WireRecord, parent: string) =>
    model.linksFrom(record.type).filter(({ link }) => record.values[link] === parent);
  return {
    now,
    loose: now.filter((record) => !now.some(({ id }) => names(record, id).length > 0)),
    beneath: (type: string, link: string, parent: string) =>
      now.filter((record) => record.type === type && record.values[link] === parent),
  };
}

test('what is staged, laid over a family, is what going over everything gives', () => {
  fc.assert(
    fc.property(
      records(often),
      fc.array(
        fc.tuple(
          records(seldom),
          fc.subarray(
            all.map(({ id }) => id),
            { maxLength: 3 },
          ),
        ),
        {
          minLength: 1,
          maxLength: 3,
        },
      ),
      (known, rehearsals) => {
        fc.pre(known.length > 0);
        const outside = { ...known[0], id: 'elsewhere', values: { title: 'Elsewhere' } };
        const family = {
          ...{ root: { type: known[0]!.type, id: known[0]!.id }, names: {}, complete: [], versions: {} },
          ...{ members: known.map(({ id }) => id), records: [outside, ...known] },
        } as unknown as FamilyData;
        for (const [changed, left] of rehearsals) {
          const gone = left.filter(
            (id) => family.members.includes(id) && !changed.some((one) => one.id === id),
          );
          const staged = standing(model, family, { rehearsals: [], changed, gone });
          const { now, loose, beneath } = plainly(family, changed, gone);
          expect(staged.records).toEqual(now);
          expect(staged.loose).toEqual(loose);
          expect(all.map(({ id }) => staged.find(id))).toEqual(
            all.map(({ id }) => now.find((record) => record.id === id)),
          );
          for (const { type, id } of all)
            for (const link of model.linksTo(type))
              expect(staged.childrenOf(link, id)).toEqual(beneath(link.type, link.link, id));
        }
      },
    ),
    { numRuns: cases(300) },
  );
});

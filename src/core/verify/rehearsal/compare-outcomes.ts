import { called } from '@/core/called';
import { typeIn, type Model } from '@/core/model';
import type { WireValue } from '@/core/values';
import { wordsOfValue } from '@/core/verify/family/value-words';
import type { WireRecord } from '@/core/verify/family/family';

/** A value that one set of rules leaves otherwise than another. */
export interface OutcomeDifference {
  readonly type: string;
  readonly id: string;
  readonly title: string;
  readonly field: string;
  readonly fieldName: string;
  readonly before: string;
  readonly after: string;
}

export interface OutcomesCompared {
  readonly values: readonly OutcomeDifference[];
  /** Records that only one of the two has, by their types and titles. */
  readonly onlyBefore: readonly string[];
  readonly onlyAfter: readonly string[];
}

/** What differs between records as one set of rules leaves them and as another does: values field by field, and records that only one has. */
export function compareOutcomes(
  model: Model,
  before: readonly WireRecord[],
  after: readonly WireRecord[],
  nameOf: (id: string) => string | undefined,
): OutcomesCompared {
  const had = new Map(before.map((record) => [record.id, record]));
  const has = new Map(after.map((record) => [record.id, record]));
  const titleOf = ({ type, values }: WireRecord) => String(values[typeIn(model, type).title] ?? '');
  const only = (of: readonly WireRecord[], other: ReadonlyMap<string, WireRecord>) =>
    of.filter(({ id }) => !other.has(id)).map((one) => called(typeIn(model, one.type).name, titleOf(one)));
  const values = after.flatMap((record): OutcomeDifference[] => {
    const was = had.get(record.id);
    if (!was) return [];
    return typeIn(model, record.type).fields.flatMap(({ key, name, type }) => {
      const [one, other] = [was.values[key] ?? null, record.values[key] ?? null];
      if (JSON.stringify(one) === JSON.stringify(other)) return [];
      const words = (value: WireValue) => (value === null ? 'empty' : wordsOfValue(type, value, nameOf));
      return [
        {
          ...{ type: record.type, id: record.id, title: titleOf(record), field: key, fieldName: name },
          ...{ before: words(one), after: words(other) },
        },
      ];
    });
  });
  return { values, onlyBefore: only(before, has), onlyAfter: only(after, had) };
}

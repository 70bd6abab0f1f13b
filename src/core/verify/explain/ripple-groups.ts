import { canonical } from '@/core/basics/canonical';
import { grouped } from '@/core/grouped';
import { compareText, Decimal, firstIn } from '@/core/values';
import type { ChangeView, ValueView, WriterView } from './views';

/** From what to what a field of several records changed. */
export interface Becoming {
  readonly before: ValueView;
  readonly after: ValueView;
  readonly records: number;
}

/** What names a group of changes that are alike: of one field by one rule in one wave, or records that were made, deleted or restored. */
export interface GroupKey {
  readonly wave: number;
  readonly kind: ChangeView['kind'];
  readonly type: string;
  /** `''` where records were made, deleted or restored. */
  readonly field: string;
  /** `null`: a person, or a link's own way. */
  readonly rule: WriterView | null;
}

/** Changes that are alike, summed up. */
export interface RippleGroup extends GroupKey {
  readonly typeName: string;
  readonly plural: string;
  readonly fieldName: string;
  readonly records: number;
  /** How many can't be worked out. */
  readonly problems: number;
  /** From what to what, the most frequent first, at most five; of records that were made, deleted or restored nothing. */
  readonly becomes: readonly Becoming[];
  /** In how many ways altogether. */
  readonly ways: number;
  /** Of amounts: how many became larger, and how many smaller. `null` for others. */
  readonly amounts: { readonly larger: number; readonly smaller: number } | null;
  /** At most five: of amounts those with the largest differences, of others the first that were made. */
  readonly samples: readonly GroupSample[];
}

export interface GroupSample {
  readonly id: string;
  readonly title: string;
  readonly before: ValueView | null;
  readonly after: ValueView | null;
}

/** Most ways and samples that are told of a group. */
export const MOST_TOLD = 5;

/** Changes that are alike from this number on are told as a group. */
export const LEAST_ALIKE = 4;

export const groupKeyText = ({ wave, kind, type, field, rule }: GroupKey): string =>
  [wave, kind, type, field, rule?.id ?? ''].join(' ');

/** Changes of a wave with what they are alike in, in the order in which each comes first. */
export function groupedChanges(
  wave: number,
  changes: readonly ChangeView[],
): readonly { readonly group: RippleGroup; readonly changes: readonly ChangeView[] }[] {
  const keyOf = (change: ChangeView) => groupKeyText({ ...change, wave });
  return [...grouped(changes, keyOf).values()].map((alike) => ({
    group: groupOf(wave, alike),
    changes: alike,
  }));
}

/** What changes have in common that are alike. */
function groupOf(wave: number, changes: readonly ChangeView[]): RippleGroup {
  const { kind, type, typeName, plural, field, fieldName, rule } = firstIn(changes);
  const becomes = kind === 'field' ? becomingIn(changes) : [];
  const differences = changes.flatMap(({ difference }) =>
    difference === null ? [] : [new Decimal(difference)],
  );
  const isAmount = differences.length > 0;
  return {
    ...{ wave, kind, type, typeName, plural, field, fieldName, rule },
    records: changes.length,
    problems: changes.filter(({ problem }) => problem !== null).length,
    becomes: becomes.slice(0, MOST_TOLD),
    ways: becomes.length,
    amounts: isAmount
      ? {
          larger: differences.filter((one) => one.gt(0)).length,
          smaller: differences.filter((one) => one.lt(0)).length,
        }
      : null,
    samples: [...changes]
      .sort((a, b) => sizeOf(b).comparedTo(sizeOf(a)) || compareText(a.id, b.id))
      .slice(0, MOST_TOLD)
      .map(({ id, title, before, after }) => ({ id, title, before, after })),
  };
}

const sizeOf = ({ difference }: ChangeView): Decimal => new Decimal(difference ?? 0).abs();

function becomingIn(changes: readonly ChangeView[]): Becoming[] {
  const ways = new Map<string, { before: ValueView; after: ValueView; records: number }>();
  for (const { before, after } of changes) {
    if (!before || !after) continue;
    const key = canonical([before.wire, after.wire]);
    const known = ways.get(key);
    if (known) known.records += 1;
    else ways.set(key, { before, after, records: 1 });
  }
  return [...ways]
    .sort(([a, one], [b, other]) => other.records - one.records || compareText(a, b))
    .map(([, way]) => way);
}

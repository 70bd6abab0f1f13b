import type { Link, Model } from '@/core/model';
import type { FamilyData, WireRecord } from '@/core/verify';
import type { Rehearsed } from '@/ui/workers/rule-worker';

/** A family's members as they would stand with what is staged, found by what they hang under. */
export interface Standing {
  /** In the family's order; new records come last. */
  readonly records: readonly WireRecord[];
  /** What names no other record of the family: it came loose, or was never under it. The record at the top may be among them. */
  readonly loose: readonly WireRecord[];
  find(id: string): WireRecord | undefined;
  childrenOf(link: Pick<Link, 'type' | 'link'>, parent: string): readonly WireRecord[];
}

const NONE: readonly WireRecord[] = [];

/** A family's members as they are stored. It may be large: it is gone over once, and what is staged laid over it. */
class Members {
  readonly records: readonly WireRecord[];
  readonly #at = new Map<string, number>();
  readonly #beneath = new Map<string, WireRecord[]>();
  readonly #loose: readonly WireRecord[];

  constructor(
    private readonly model: Model,
    family: FamilyData,
  ) {
    const members = new Set(family.members);
    this.records = family.records.filter(({ id }) => members.has(id));
    this.records.forEach(({ id }, at) => this.#at.set(id, at));
    for (const record of this.records)
      for (const key of this.above(record)) {
        const children = this.#beneath.get(key);
        if (children) children.push(record);
        else this.#beneath.set(key, [record]);
      }
    this.#loose = this.records.filter((record) => this.isLoose(record, (id) => this.#at.has(id)));
  }

  /** Puts what a rehearsal changed over it: only what that touches is looked at. */
  with({ changed, gone }: Rehearsed): Standing {
    const left = new Set(gone);
    const altered = new Map(changed.map((record) => [record.id, record]));
    const find = (id: string): WireRecord | undefined =>
      left.has(id) ? undefined : (altered.get(id) ?? this.stored(id));
    const added = changed.filter(({ id }) => !this.#at.has(id));
    const nextOf = new Map(added.map(({ id }, at) => [id, this.records.length + at]));
    const placeOf = ({ id }: WireRecord): number => this.#at.get(id) ?? nextOf.get(id) ?? 0;
    const inOrder = (ids: Iterable<string>): WireRecord[] =>
      [...new Set(ids)].flatMap((id) => find(id) ?? []).sort((a, b) => placeOf(a) - placeOf(b));
    const beneath = this.beneathWith([...left, ...altered.keys()], find, inOrder);
    // What loses what it hung under, or finds it again, is itself changed, hangs under what went, or was loose.
    const asked = [
      ...this.#loose.map(({ id }) => id),
      ...altered.keys(),
      ...gone.flatMap((id) => this.childrenOf(id)).map(({ id }) => id),
    ];
    const loose = inOrder(asked).filter((record) => this.isLoose(record, (id) => find(id) !== undefined));
    const all = () => [
      ...this.records.flatMap((record) => (left.has(record.id) ? [] : (altered.get(record.id) ?? record))),
      ...added.filter(({ id }) => !left.has(id)),
    ];
    let records: readonly WireRecord[] | null = null;
    return {
      get records() {
        return (records ??= all());
      },
      ...{ loose, find },
      childrenOf: ({ type, link }, parent) => {
        const key = keyOf(type, link, parent);
        return beneath.get(key) ?? this.#beneath.get(key) ?? NONE;
      },
    };
  }

  private stored(id: string): WireRecord | undefined {
    const at = this.#at.get(id);
    return at === undefined ? undefined : this.records[at];
  }

  /** The children of each record that lost one, was given one, or of which one is otherwise. */
  private beneathWith(
    ids: readonly string[],
    find: (id: string) => WireRecord | undefined,
    inOrder: (ids: Iterable<string>) => WireRecord[],
  ): ReadonlyMap<string, readonly WireRecord[]> {
    const moved = new Map<string, Set<string>>();
    for (const id of ids)
      for (const record of [this.stored(id), find(id)])
        for (const key of record ? this.above(record) : [])
          moved.set(key, (moved.get(key) ?? new Set()).add(id));
    return new Map(
      Array.from(moved, ([key, of]) => {
        const here = [...of].filter((id) => {
          const record = find(id);
          return record && this.above(record).includes(key);
        });
        const there = this.#beneath.get(key) ?? NONE;
        const stay = there.filter(({ id }) => of.has(id)).length;
        // Where nothing comes or goes the list keeps its order.
        if (stay === here.length && stay === of.size)
          return [key, there.map((record) => (of.has(record.id) ? (find(record.id) ?? record) : record))];
        return [key, inOrder([...there.filter(({ id }) => !of.has(id)).map(({ id }) => id), ...here])];
      }),
    );
  }

  /** Whatever hangs under a record, over any link. */
  private childrenOf(id: string): readonly WireRecord[] {
    const record = this.stored(id);
    return record
      ? this.model
          .linksTo(record.type)
          .flatMap(({ type, link }) => this.#beneath.get(keyOf(type, link, id)) ?? NONE)
      : NONE;
  }

  /** Under what a record hangs: the keys of the lists of children that it is in. */
  private above({ type, values }: WireRecord): string[] {
    return this.model.linksFrom(type).flatMap(({ link }) => {
      const parent = values[link];
      return typeof parent === 'string' ? [keyOf(type, link, parent)] : [];
    });
  }

  private isLoose({ type, values }: WireRecord, has: (id: string) => boolean): boolean {
    return this.model.linksFrom(type).every(({ link }) => !has(String(values[link])));
  }
}

const keyOf = (type: string, link: string, parent: string): string => `${type}.${link} ${parent}`;

const known = new WeakMap<FamilyData, { readonly model: Model; readonly members: Members }>();

/** Puts what a rehearsal changed over the family, in its order; new records come after all others. */
export function standing(model: Model, family: FamilyData, rehearsed: Rehearsed): Standing {
  let of = known.get(family);
  if (of?.model !== model) known.set(family, (of = { model, members: new Members(model, family) }));
  return of.members.with(rehearsed);
}

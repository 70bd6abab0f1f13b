import { isAllTheWay, type Model, routeKey, type Step, typeAlong } from '@/core/model';
import type { CompiledRule, FoundAmong, RatesRead, Read } from '@/core/rules';
import { certain, compareText, fold, type Value, valueAt, valueKey } from '@/core/values';
import { ask, type Answer, type Answers, type Need, rowSet } from '@/core/engine/driver/need';
import { cellKey, type CellRef, recordKey, type Row, type Touched } from '@/core/engine/driver/record';

export const isThere = (row: Row | null): row is Row => row !== null && !row.deleted;
/** Whether it came out of the bin: that is neither making nor attaching. */
export const cameBack = ({ before, after }: Touched): boolean => before?.deleted === true && isThere(after);
const appearedOrWent = (touched: Touched): boolean => isThere(touched.before) !== isThere(touched.after);

/** What a read sees of a touched record: its field, `''` where it came or went, nothing where the read sees it as it was. */
function seenBy(read: Pick<Read, 'type' | 'field'>, entry: Touched): string | null {
  if (entry.type !== read.type) return null;
  return appearedOrWent(entry) ? '' : entry.fields.has(read.field) ? read.field : null;
}

/** What of a rule says which targets a run may change. */
type Reading = Pick<CompiledRule, 'writes' | 'reads' | 'rates' | 'among'>;

/** Whether anything that a run touched can reach a rule: most rules are left alone by most runs. */
export function isReached(rule: Reading, touched: ReadonlyMap<string, Touched>): boolean {
  for (const entry of touched.values()) {
    if (entry.type === rule.writes.type && appearedOrWent(entry)) return true;
    for (const read of rule.reads) if (seenBy(read, entry) !== null) return true;
    if (rule.rates && isRateRead(rule.rates, entry)) return true;
    if (rule.among && isFoundIn(rule.among, entry)) return true;
  }
  return false;
}

/** Whether a touched record is a rate that a rule may look up: into one of its currencies, before or now. */
function isRateRead({ type, pair, fields, into }: RatesRead, entry: Touched): boolean {
  if (entry.type !== type) return false;
  if (!appearedOrWent(entry) && !fields.some((field) => entry.fields.has(field))) return false;
  return [entry.before, entry.after].some((row) => {
    const of = row?.values[pair];
    return typeof of === 'string' && into.includes(of.split('/')[1] ?? '');
  });
}

/** Whether a touched record may be found otherwise than before: it came or went, or a field by which it is found changed. */
const isFoundIn = (among: FoundAmong, entry: Touched): boolean =>
  (entry.type === among.type && appearedOrWent(entry)) ||
  among.reads.some((read) => seenBy(read, entry) !== null);

/**
 * Whether a touched record is read of others: of which, isn't looked for. Where one of their own type comes or goes, those that name it are touched themselves.
 */
const isReadFar = (among: FoundAmong, entry: Touched): boolean =>
  entry.type !== among.type ||
  (!appearedOrWent(entry) &&
    among.reads.some((read) => read.path.length > 0 && seenBy(read, entry) !== null));

/** Records with the changes that they follow from. */
class Causes {
  readonly #of = new Map<string, CellRef[]>();

  add(id: string, causes: Iterable<CellRef>): void {
    const known = this.#of.get(id);
    if (known) for (const cause of causes) known.push(cause);
    else this.#of.set(id, [...causes]);
  }

  get isEmpty(): boolean {
    return this.#of.size === 0;
  }

  ids(): string[] {
    return [...this.#of.keys()];
  }

  of(id: string): readonly CellRef[] {
    return this.#of.get(id) ?? [];
  }

  /** Each once, in one order, whatever the order of the edits. */
  sorted(): Map<string, readonly CellRef[]> {
    return new Map(Array.from(this.#of, ([id, causes]) => [id, causesInOrder(causes)]));
  }
}

export function causesInOrder(causes: readonly CellRef[]): readonly CellRef[] {
  if (causes.length < 2) return causes;
  const byKey = new Map(causes.map((cause) => [cellKey(cause), cause]));
  return [...byKey.keys()].sort(compareText).map((key) => valueAt(byKey, key));
}

/** Records that a rule reads, at the end of one of its paths: which fields of them, and the step to them from the place before. */
interface Place {
  readonly type: string;
  readonly fields: Set<string>;
  /** Links to itself that are read on all that lies above it, too. */
  readonly above: Set<string>;
  readonly from: { readonly place: string; readonly type: string; readonly step: Step } | null;
  readonly depth: number;
}

const placesOfRules = new WeakMap<Reading, readonly [string, Place][]>();

/** The places of a rule's reads, those furthest from the target first; the target itself is the last. */
function placesOf(rule: Reading, model: Model): readonly [string, Place][] {
  const known = placesOfRules.get(rule);
  if (known) return known;
  const root: Place = { type: rule.writes.type, fields: new Set(), above: new Set(), from: null, depth: 0 };
  const places = new Map<string, Place>([['', root]]);
  for (const { field, path, isAllUp } of rule.reads) {
    let at = '';
    let type = rule.writes.type;
    path.forEach((step, index) => {
      const key = routeKey(path.slice(0, index + 1));
      const from = { place: at, type, step };
      type = typeAlong(model, type, [step]);
      if (!places.has(key))
        places.set(key, { type, fields: new Set(), above: new Set(), from, depth: index + 1 });
      at = key;
    });
    valueAt(places, at).fields.add(field);
    if (isAllUp) valueAt(places, at).above.add(field);
  }
  const sorted = [...places].sort(([, a], [, b]) => b.depth - a.depth);
  placesOfRules.set(rule, sorted);
  return sorted;
}

/** The targets of a rule that a run may change, as far as that is known from what it touched. */
export interface Affected {
  /** Targets whose value may have changed, with the changes that they follow from. */
  readonly targets: ReadonlyMap<string, readonly CellRef[]>;
  /** Targets that aren't affected by touched children alone: made or restored, or by what the rule reads on them. */
  readonly whole: ReadonlySet<string>;
}

const NOTHING_AFFECTED: Affected = { targets: new Map(), whole: new Set() };

/**
 * The targets whose value may have changed, for one rule, from what a run has touched so far: from what it reads back over the steps
 * of its paths to the target. Back over a step down lies the parent before and the parent now; back over a step up lie the records
 * whose link leads there. Targets that were just made or restored are among them.
 */
export function* affectedTargets(
  model: Model,
  rule: Reading,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Affected, Answer> {
  if (!isReached(rule, touched)) return NOTHING_AFFECTED;
  const found = new Map<string, Causes>();
  const at = (place: string): Causes => {
    let causes = found.get(place);
    if (!causes) found.set(place, (causes = new Causes()));
    return causes;
  };
  const whole = new Set<string>();
  for (const [key, { type, fields, above, from }] of placesOf(rule, model)) {
    const here = at(key);
    for (const entry of touched.values()) {
      if (entry.type !== type) continue;
      const causes = seenAt(entry, fields, from === null);
      if (causes.length === 0) continue;
      here.add(entry.id, causes);
      if (from === null) whole.add(entry.id);
    }
    if (from === null || here.isEmpty) continue;
    for (const link of above) yield* allBeneath(type, link, here);
    const before = at(from.place);
    const isBack =
      from.step.direction === 'down'
        ? backUp(type, from.step.link, here, touched)
        : backDown(from.type, from.step.link, type, here);
    const near = yield* isBack;
    for (const [id, causes] of near) before.add(id, causes);
    if (isAllTheWay(from.step)) yield* allAbove(type, from.step.link, near, { before, touched });
  }
  if (rule.among) yield* finding(rule, rule.among, touched, at(''), whole);
  if (rule.rates) {
    const rates = [...touched.values()].filter((entry) => isRateRead(certain(rule.rates), entry));
    if (rates.length > 0) {
      // Whose amounts a rate is for isn't asked: all of them are worked out again.
      const causes = rates.map((entry) => ({
        ...{ type: entry.type, id: entry.id },
        field: appearedOrWent(entry)
          ? ''
          : (certain(rule.rates).fields.find((field) => entry.fields.has(field)) ?? ''),
      }));
      const all: Answers['everything'] = yield* ask<'everything'>({
        kind: 'everything',
        type: rule.writes.type,
      });
      for (const id of all.ids) {
        at('').add(id, causes);
        whole.add(id);
      }
    }
  }
  return { targets: at('').sorted(), whole };
}

/** What of a touched record is seen at a place; a target that isn't there any more has no value to keep. */
function seenAt(entry: Touched, fields: ReadonlySet<string>, isTarget: boolean): CellRef[] {
  const { type, id } = entry;
  if (appearedOrWent(entry)) return isTarget && !isThere(entry.after) ? [] : [{ type, id, field: '' }];
  const seen: CellRef[] = [];
  for (const field of entry.fields) if (fields.has(field)) seen.push({ type, id, field });
  return seen;
}

type Near = [string, readonly CellRef[]][];

/** Adds all that lies above records over a link of their type to itself, as it lay before the run and as it does now. */
function* allAbove(
  type: string,
  link: string,
  near: Near,
  { before, touched }: { readonly before: Causes; readonly touched: ReadonlyMap<string, Touched> },
): Generator<Need, void, Answer> {
  const seen = new Set<string>();
  for (let level = near; level.length > 0;) {
    const causes = new Causes();
    for (const [id, because] of level) if (!seen.has(id)) causes.add(id, because);
    for (const id of causes.ids()) seen.add(id);
    level = causes.isEmpty ? [] : yield* backUp(type, link, causes, touched);
    for (const [id, because] of level) before.add(id, because);
  }
}

/** Adds all that lies beneath records over a link of their type to itself. */
function* allBeneath(type: string, link: string, here: Causes): Generator<Need, void, Answer> {
  let level: readonly string[] = here.ids();
  const seen = new Set(level);
  while (level.length > 0) {
    const { parentOf }: Answers['related'] = yield* ask<'related'>({
      ...{ kind: 'related', parents: rowSet(type, level), link: { type, link } },
    });
    const next: string[] = [];
    for (const [child, parent] of parentOf) {
      if (seen.has(child)) continue;
      seen.add(child);
      here.add(child, here.of(parent));
      next.push(child);
    }
    level = next;
  }
}

/**
 * Records among which one is found have changed. Those links are looked at again that name one of them, or whose record has the same as one of
 * them in a field; where that isn't known, all.
 */
function* finding(
  rule: Reading,
  among: FoundAmong,
  touched: ReadonlyMap<string, Touched>,
  targets: Causes,
  whole: Set<string>,
): Generator<Need, void, Answer> {
  const entries = [...touched.values()].filter((entry) => isFoundIn(among, entry));
  if (entries.length === 0) return;
  const { type, field } = rule.writes;
  const causeOf = (entry: Touched): CellRef => {
    const read = among.reads.find((one) => seenBy(one, entry) !== null);
    return { type: entry.type, id: entry.id, field: (read && seenBy(read, entry)) ?? '' };
  };
  const add = (id: string, causes: readonly CellRef[]) => {
    targets.add(id, causes);
    whole.add(id);
  };
  const { by } = among;
  if (!by || entries.some((entry) => isReadFar(among, entry))) {
    const all: Answers['everything'] = yield* ask<'everything'>({ kind: 'everything', type });
    for (const id of all.ids) add(id, entries.map(causeOf));
    return;
  }
  const keyOf = (value: Value) =>
    String(
      valueKey((by.isFolded && typeof value === 'string' ? fold(value) : value) as Exclude<Value, null>),
    );
  const byKey = new Map<string, CellRef[]>();
  const values = new Map<string, Exclude<Value, null>>();
  for (const entry of entries)
    for (const row of [entry.before, entry.after]) {
      const value = row?.values[by.other] ?? null;
      if (value === null) continue;
      values.set(keyOf(value), value);
      byKey.set(keyOf(value), [...(byKey.get(keyOf(value)) ?? []), causeOf(entry)]);
    }
  if (values.size > 0) {
    const held: Answers['holders'] = yield* ask<'holders'>({
      ...{ kind: 'holders', type, field: by.own, values: [...values.values()] },
      ...(by.isFolded ? { isFolded: true } : {}),
    });
    for (const row of held) add(row.id, byKey.get(keyOf(row.values[by.own]!)) ?? []);
  }
  const { parentOf }: Answers['related'] = yield* ask<'related'>({
    ...{ kind: 'related', link: { type, link: field } },
    parents: rowSet(
      among.type,
      entries.map(({ id }) => id),
    ),
  });
  for (const [id, found] of parentOf) add(id, entries.filter((entry) => entry.id === found).map(causeOf));
}

/** From children to the parents that they name: before the run, and now. */
function* backUp(
  type: string,
  link: string,
  children: Causes,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Near, Answer> {
  const near: Near = [];
  const unread = children.ids().filter((id) => !touched.has(recordKey({ type, id })));
  const answer: Answers['records'] | null =
    unread.length > 0 ? yield* ask<'records'>({ kind: 'records', set: rowSet(type, unread) }) : null;
  for (const id of children.ids()) {
    const entry = touched.get(recordKey({ type, id }));
    const before = entry ? entry.before : answer?.rows.get(id);
    const after = entry ? entry.after : answer?.rows.get(id);
    for (const parent of new Set([parentIn(before, link), parentIn(after, link)]))
      if (parent !== null) near.push([parent, children.of(id)]);
  }
  return near;
}

function parentIn(row: Row | null | undefined, link: string): string | null {
  const parent = row?.deleted ? null : row?.values[link];
  return typeof parent === 'string' ? parent : null;
}

/** From records to those whose link names them. */
function* backDown(
  type: string,
  link: string,
  parentType: string,
  parents: Causes,
): Generator<Need, Near, Answer> {
  const { parentOf }: Answers['related'] = yield* ask<'related'>({
    kind: 'related',
    parents: rowSet(parentType, parents.ids()),
    link: { type, link },
  });
  return Array.from(parentOf, ([child, parent]) => [child, parents.of(parent)]);
}

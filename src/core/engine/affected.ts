import { follow, type Model } from '../model';
import type { CompiledRollUp, Read } from '../rules';
import { compareText } from '../values';
import { ask, type Answer, type Answers, type Need, rowSet } from './need';
import { cellKey, type CellRef, recordKey, type Row } from './record';

/** A record that a run touches: as it stood before, as it stands now (`null`: isn't there), and what of it changed. */
export interface Touched {
  readonly type: string;
  readonly id: string;
  readonly before: Row | null;
  readonly after: Row | null;
  readonly fields: ReadonlySet<string>;
}

export const isThere = (row: Row | null): row is Row => row !== null && !row.deleted;
const appearedOrWent = (touched: Touched): boolean => isThere(touched.before) !== isThere(touched.after);

/** What a read sees of a touched record: its field, `''` where it came or went, nothing where the read sees it as it was. */
function seenBy(read: Read, entry: Touched): string | null {
  if (entry.type !== read.type) return null;
  return appearedOrWent(entry) ? '' : entry.fields.has(read.field) ? read.field : null;
}

/** Whether anything that a run touched can reach a rule: most rules are left alone by most runs. */
export function isReached(rule: CompiledRollUp, touched: ReadonlyMap<string, Touched>): boolean {
  for (const entry of touched.values()) {
    if (entry.type === rule.writes.type && appearedOrWent(entry)) return true;
    for (const read of rule.reads) if (seenBy(read, entry) !== null) return true;
  }
  return false;
}

/** Records with the changes that they follow from. */
class Causes {
  readonly #of = new Map<string, CellRef[]>();

  add(id: string, causes: Iterable<CellRef>): void {
    const known = this.#of.get(id);
    if (known) for (const cause of causes) known.push(cause);
    else this.#of.set(id, [...causes]);
  }

  ids(): string[] {
    return [...this.#of.keys()];
  }

  of(id: string): readonly CellRef[] {
    return this.#of.get(id) ?? [];
  }

  /** Each once, in one order, whatever the order of the edits. */
  sorted(): Map<string, CellRef[]> {
    for (const [id, causes] of this.#of) if (causes.length > 1) this.#of.set(id, inOrder(causes));
    return this.#of;
  }
}

function inOrder(causes: readonly CellRef[]): CellRef[] {
  const byKey = new Map(causes.map((cause) => [cellKey(cause), cause]));
  return [...byKey.keys()].sort(compareText).map((key) => byKey.get(key)!);
}

/** The children of a rule's link that a run changes, as far as that is known from the edits alone. */
export interface Affected {
  /** Targets whose value may have changed, with the changes that they follow from. */
  readonly targets: ReadonlyMap<string, readonly CellRef[]>;
  /** Targets that aren't affected by touched children alone: made or restored, or reached from further up a route. */
  readonly whole: ReadonlySet<string>;
}

const NOTHING_AFFECTED: Affected = { targets: new Map(), whole: new Set() };

/**
 * The targets whose value may have changed, for one rule, from what a run has touched so far: for a child its parent
 * before and its parent now; for a field in the middle of a route, the parents of the records on its near side; and
 * targets that were just made or restored.
 */
export function* affectedTargets(
  model: Model,
  rule: CompiledRollUp,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Affected, Answer> {
  if (!isReached(rule, touched)) return NOTHING_AFFECTED;
  const children = yield* affectedChildren(model, rule, touched);
  const targets = new Causes();
  const whole = new Set<string>();
  for (const entry of touched.values()) {
    if (entry.type !== rule.writes.type || !isThere(entry.after) || !appearedOrWent(entry)) continue;
    targets.add(entry.id, [{ type: entry.type, id: entry.id, field: '' }]);
    whole.add(entry.id);
  }
  const { type, link } = rule.link;
  const unread = children.ids().filter((id) => !touched.has(recordKey({ type, id })));
  const answer: Answers['records'] | null =
    unread.length > 0 ? yield* ask<'records'>({ kind: 'records', set: rowSet(type, unread) }) : null;
  for (const id of children.ids()) {
    const entry = touched.get(recordKey({ type, id }));
    const before = entry ? entry.before : answer?.rows.get(id);
    const after = entry ? entry.after : answer?.rows.get(id);
    for (const parent of new Set([parentIn(before, link), parentIn(after, link)])) {
      if (parent === null) continue;
      targets.add(parent, children.of(id));
      if (!entry) whole.add(parent);
    }
  }
  return { targets: targets.sorted(), whole };
}

function parentIn(row: Row | null | undefined, link: string): string | null {
  const parent = row?.deleted ? null : row?.values[link];
  return typeof parent === 'string' ? parent : null;
}

/** Children that the rule goes over and that read something touched, with what it was. */
function* affectedChildren(
  model: Model,
  rule: CompiledRollUp,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Causes, Answer> {
  const children = new Causes();
  for (const read of rule.reads) {
    const ends = read.route.length === 0 ? children : new Causes();
    for (const entry of touched.values()) {
      const field = seenBy(read, entry);
      if (field !== null) ends.add(entry.id, [{ type: entry.type, id: entry.id, field }]);
    }
    if (ends === children) continue;
    const near = yield* descend(model, rule, read, ends);
    for (const id of near.ids()) children.add(id, near.of(id));
  }
  return children;
}

/** From records at the end of a read's route back down to the children that reach them, one need for each step. */
function* descend(
  model: Model,
  rule: CompiledRollUp,
  read: Read,
  ends: Causes,
): Generator<Need, Causes, Answer> {
  let level = ends;
  for (let depth = read.route.length - 1; depth >= 0 && level.ids().length > 0; depth -= 1) {
    const link = {
      type: follow(model, rule.link.type, read.route.slice(0, depth))!,
      link: read.route[depth]!,
    };
    const parents = rowSet(follow(model, rule.link.type, read.route.slice(0, depth + 1))!, level.ids());
    const { parentOf }: Answers['related'] = yield* ask<'related'>({ kind: 'related', parents, link });
    const next = new Causes();
    for (const [child, parent] of parentOf) next.add(child, level.of(parent));
    level = next;
  }
  return level;
}

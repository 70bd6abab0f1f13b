import { follow, type Model } from '../model';
import type { CompiledRollUp, Read } from '../rules';
import { ask, type Answer, type Need, rowSet } from './need';
import { type CellRef, recordKey, type Row } from './record';

/** A record that a run touches: as it stood before, as it stands now (`null`: isn't there), and what of it changed. */
export interface Touched {
  readonly type: string;
  readonly id: string;
  readonly before: Row | null;
  readonly after: Row | null;
  readonly fields: ReadonlySet<string>;
}

const isThere = (row: Row | null): row is Row => row !== null && !row.deleted;
const appearedOrWent = (touched: Touched): boolean => isThere(touched.before) !== isThere(touched.after);

/** Targets with the changes that they follow from. */
export type Targets = Map<string, CellRef[]>;

function addCauses(targets: Targets, id: string, causes: readonly CellRef[]): void {
  const known = targets.get(id) ?? [];
  const isNew = (cause: CellRef) =>
    !known.some((other) => other.type === cause.type && other.id === cause.id && other.field === cause.field);
  targets.set(id, [...known, ...causes.filter(isNew)]);
}

/**
 * The targets whose value may have changed, for one rule, from what a run has touched so far: for a child its parent
 * before and its parent now; for a field in the middle of a route, the parents of the records on its near side; and
 * targets that were just made.
 */
export function* affectedTargets(
  model: Model,
  rule: CompiledRollUp,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Targets, Answer> {
  const children = yield* affectedChildren(model, rule, touched);
  const targets: Targets = new Map();
  const add = (id: unknown, causes: readonly CellRef[]) => {
    if (typeof id === 'string') addCauses(targets, id, causes);
  };
  for (const entry of touched.values()) {
    if (entry.type === rule.writes.type && isThere(entry.after) && appearedOrWent(entry))
      add(entry.id, [{ type: entry.type, id: entry.id, field: '' }]);
  }
  const { type, link } = rule.link;
  const unread = [...children.keys()].filter((id) => !touched.has(recordKey({ type, id })));
  const { rows } = yield* ask<'records'>({ kind: 'records', set: rowSet(type, unread) });
  for (const [id, causes] of children) {
    const entry = touched.get(recordKey({ type, id }));
    const before = entry ? entry.before : rows.get(id);
    const after = entry ? entry.after : rows.get(id);
    const parents = new Set([
      before?.deleted ? null : before?.values[link],
      after?.deleted ? null : after?.values[link],
    ]);
    for (const parent of parents) add(parent, causes);
  }
  return targets;
}

/** Children that the rule goes over and that read something touched, with what it was. */
function* affectedChildren(
  model: Model,
  rule: CompiledRollUp,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Targets, Answer> {
  const children: Targets = new Map();
  for (const read of rule.reads) {
    for (const entry of touched.values()) {
      if (entry.type !== read.type) continue;
      const field = appearedOrWent(entry) ? '' : entry.fields.has(read.field) ? read.field : null;
      if (field === null) continue;
      const near = yield* descend(model, rule, read, entry.id);
      for (const id of near) addCauses(children, id, [{ type: entry.type, id: entry.id, field }]);
    }
  }
  return children;
}

/** From a record at the end of a read's route back down to the children that reach it. */
function* descend(
  model: Model,
  rule: CompiledRollUp,
  read: Read,
  id: string,
): Generator<Need, readonly string[], Answer> {
  let ids: readonly string[] = [id];
  for (let depth = read.route.length - 1; depth >= 0; depth -= 1) {
    const link = {
      type: follow(model, rule.link.type, read.route.slice(0, depth))!,
      link: read.route[depth]!,
    };
    const parents = rowSet(follow(model, rule.link.type, read.route.slice(0, depth + 1))!, ids);
    ids = (yield* ask<'related'>({ kind: 'related', parents, link })).ids;
  }
  return ids;
}

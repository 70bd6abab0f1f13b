import { Failure, OUTSIDE, type Outside, type TypedField } from '@/core/expression';
import { type LinkRef, type Model, type StepDown, typeUp } from '@/core/model';
import {
  aggregate,
  type Aggregated,
  type CompiledAlone,
  type CompiledRollUp,
  type Finder,
  formulaOutcome,
  isOfHalf,
  linkedOutcome,
  type CompiledSource,
  type Members,
  type Reader,
  contributionAlone,
} from '@/core/rules';
import { firstIn, type Outcome } from '@/core/values';
import type { RecordStore } from './memory-store';
import { rateIn } from './rate-lookup';
import { heldIn, OWN_FIELDS, type Row, storedOutcome } from './record';

/** The record at the end of a route; `null` where a link is empty or leads to one in the bin. */
function rowAt(
  model: Model,
  store: RecordStore,
  row: Row,
  { from, route }: Pick<TypedField, 'from' | 'route'>,
): Row | null | Outside {
  let at: Row = row;
  for (const [index, link] of route.entries()) {
    const id = at.values[link];
    if (typeof id !== 'string') return null;
    const next = store.row(typeUp(model, from, route.slice(0, index + 1)), id);
    if (!next) return store.isWhole ? null : OUTSIDE;
    if (next.deleted) return null;
    at = next;
  }
  return at;
}

/** Reads fields of records and up their routes. An empty link, or one to a deleted record, reads as empty. */
export function readerOf(model: Model, store: RecordStore): Reader<Row> {
  const reached = (row: Row, field: TypedField) =>
    field.route.length === 0 ? row : rowAt(model, store, row, field);
  return {
    value: (row, field) => {
      const at = reached(row, field);
      return at === OUTSIDE ? OUTSIDE : at && heldIn(at, field.field);
    },
    given: (row, field) => {
      const at = reached(row, field);
      if (at === OUTSIDE) return OUTSIDE;
      if (at !== null && at.errors[field.field] !== undefined) return Failure.of('input_has_problem');
      return at && heldIn(at, field.field);
    },
    idOf: ({ id }) => id,
    beneath: (row, node) => {
      if (node.kind === 'rate') return rateIn(store, node);
      const { from, up, down } = node;
      const at = rowAt(model, store, row, { from, route: up });
      return at === OUTSIDE || at === null ? (at ?? []) : descend(store, down, at.id);
    },
  };
}

/** The records that a source brings in beneath a target; `OUTSIDE` where not all of them are here. */
export const membersOf = (
  store: RecordStore,
  source: CompiledSource,
  target: string,
): readonly Row[] | Outside => descend(store, source.route, target);

/** The lowest records of a way down. */
function descend(store: RecordStore, route: readonly StepDown[], top: string): readonly Row[] | Outside {
  let parents: readonly string[] = [top];
  let rows: readonly Row[] = [];
  for (const step of route) {
    const found = step.isAllTheWay ? allBeneath(store, step, parents) : childrenOf(store, step, parents);
    if (found === OUTSIDE) return OUTSIDE;
    rows = found;
    if (rows.length === 0) break;
    parents = rows.map(({ id }) => id);
  }
  return rows;
}

/** One level down. */
function childrenOf(store: RecordStore, link: LinkRef, parents: readonly string[]): readonly Row[] | Outside {
  if (!parents.every((parent) => store.hasAllChildren(link, parent))) return OUTSIDE;
  return parents.length === 1
    ? store.childRows(link, firstIn(parents))
    : parents.flatMap((parent) => [...store.childRows(link, parent)]);
}

/** All that lies beneath records over a link of their type to itself, each once. */
function allBeneath(store: RecordStore, link: LinkRef, tops: readonly string[]): readonly Row[] | Outside {
  const found = new Map<string, Row>();
  for (let level = tops; level.length > 0;) {
    const next = childrenOf(store, link, level);
    if (next === OUTSIDE) return OUTSIDE;
    level = next.flatMap(({ id }) => (found.has(id) ? [] : [id]));
    for (const row of next) found.set(row.id, row);
  }
  return [...found.values()];
}

/** The value of a roll-up for one target, from records in memory. */
export function rollUpInMemory(
  model: Model,
  store: RecordStore,
  rule: CompiledRollUp,
  target: Row,
): Aggregated | Outside {
  const reader = readerOf(model, store);
  return broughtInMemory(rule, target, reader, (source) => membersOf(store, source, target.id));
}

export function broughtInMemory(
  rule: CompiledRollUp,
  at: Row,
  reader: Reader<Row>,
  rowsOf: (source: CompiledSource) => readonly Row[] | Outside,
): Aggregated | Outside {
  const members: Members<Row>[] = [];
  let isHere = true;
  for (const source of rule.sources) {
    const rows = rowsOf(source);
    if (rows === OUTSIDE) isHere = false;
    else members.push({ source, rows, reader: source.isOwn ? OWN_FIELDS : reader });
  }
  const kept = { at, reader };
  if (isHere) return aggregate(rule, members, kept);
  return contributionAlone(rule, kept);
}

/** What a rule that is worked out for each record by itself gives on one. */
export function outcomeAlone(
  rule: CompiledAlone,
  row: Row,
  looking: { readonly reader: Reader<Row>; readonly finder: Finder<Row> },
): Outcome | Outside {
  const stored = storedOutcome(row, rule.writes.field);
  const isOwn = isOfHalf(rule.half, row, looking.reader);
  if (isOwn !== true) return isOwn === OUTSIDE ? OUTSIDE : stored;
  return rule.kind === 'linked'
    ? linkedOutcome(rule, row, looking, stored)
    : formulaOutcome(rule, row, looking.reader, stored);
}

/** Looks among records in memory. Up a hierarchy what is in the bin is as if it weren't there. */
export const finderOf = (store: RecordStore): Finder<Row> => ({
  topmost: (type, link, id) => {
    const seen = new Set([id]);
    for (let at = id; ;) {
      const row = store.row(type, at);
      if (!row) return store.hasAll(type) ? at : OUTSIDE;
      const next = row.values[link];
      if (typeof next !== 'string' || seen.has(next)) return at;
      const above = store.row(type, next);
      if (!above && !store.hasAll(type)) return OUTSIDE;
      if (!above || above.deleted) return at;
      seen.add(next);
      at = next;
    }
  },
  everyOf: (type) => (store.hasAll(type) ? [...store.rows(type)].filter(({ deleted }) => !deleted) : OUTSIDE),
});

import { itemAt } from '@/core/values';
import type { RunContext } from '@/core/expression';
import { fieldIn, type Model, typeAlong, typeUp } from '@/core/model';
import { type Plan, touchedTypes } from '@/core/plan';
import {
  type AnyCompiled,
  type CompiledCreate,
  type ReactingCascade,
  type CompiledRule,
  isCreate,
  isReactingCascade,
} from '@/core/rules';
import { claimsOfCascade } from './cascade-claims';
import { claimsOfCreate } from './create-claims';
import { affectedTargets } from '@/core/engine/reach/affected';
import type { Touched } from '@/core/engine/driver/record';
import { beneathAll } from '@/core/engine/reach/hierarchy-descent';
import { layersAbove, partsBeneath } from '@/core/engine/reach/hierarchy-layers';
import { readAll } from '@/core/engine/driver/read-all';
import { type Entry } from '@/core/engine/edits/types';
import { linksSet, type Above } from '@/core/engine/edits/check-links';
import { ask, type Answer, type Claim, type Need } from '@/core/engine/driver/need';
import type { Bounds } from '@/core/engine/reach/bounds';
import type { Deferral } from '@/core/engine/reach/deferral';
import { reachedPlaces } from '@/core/engine/reach/reached-places';
import { recordKey, type Row } from '@/core/engine/driver/record';
import type { RowsOf } from '@/core/engine/reach/route-reader';

export interface ClaimInput {
  readonly model: Model;
  readonly plan: Plan;
  readonly paces: Deferral;
  readonly entries: ReadonlyMap<string, Entry>;
  readonly above: Above;
  /** By rule that makes records: those for which it is asked now. */
  readonly asked: ReadonlyMap<string, readonly string[]>;
  /** Who makes the run's change, and when. */
  readonly facts: RunContext | null;
  /** Where more are reached nobody else may save meanwhile. */
  readonly bounds: Bounds;
}

/**
 * Every record that a run may write, or whose fields or existence it relies on, found from the edits alone: each field that
 * an edit names is taken as changed, each rule that it reaches as writing. More than is written in the end, never less,
 * as long as the links that it went over stay as they were read; so it is asked again once the locks are held.
 */
export function* claimsOf({
  model,
  plan,
  paces,
  entries,
  above,
  asked,
  facts,
  bounds,
}: ClaimInput): Generator<Need, Claim[], Answer> {
  const claims: Claim[] = linkedClaims(model, entries, above);
  const touched = new Map<string, Touched>(entries);
  for (const entry of entries.values())
    if (entry.before) claims.push({ type: entry.type, id: entry.id, strength: 'write' });
  const isWanted =
    asked.size > 0 || paces.isAnyDue ? ({ id }: AnyCompiled) => asked.has(id) || paces.isDue(id) : null;
  for (const rule of rulesInRounds(plan, touched, isWanted)) {
    if (isCreate(rule)) {
      const making = { model, plan, rule, touched, facts, asked: asked.get(rule.id) ?? [] };
      claims.push(...(yield* makingClaims(making)));
      continue;
    }
    if (isReactingCascade(rule)) {
      claims.push(
        ...(yield* cascadeClaims(model, rule, { touched, isRead: plan.isRead(rule.writes), bounds })),
      );
      continue;
    }
    const { type, field } = rule.writes;
    const isDeferred = paces.isDeferred(rule);
    const ids = isDeferred ? paces.mayAsk(rule, touched) : yield* idsAffected(model, rule, touched);
    // What is only noted for later is neither read nor written now.
    if (isDeferred && ids.length === 0) continue;
    claims.push(...(yield* routeClaims(model, rule, touched)));
    if (isDeferred && rule.recursion) ids.push(...(yield* partsBeneath(rule, ids.splice(0), touched)));
    // All that lies above may change too; what lies in a loop is refused later on.
    if (rule.recursion && ids.length > 0)
      ids.push(...(yield* layersAbove(rule, ids.splice(0), touched)).wholesOf.keys());
    if (rule.kind === 'keptCascade' && rule.handsDown && ids.length > 0)
      ids.push(...(yield* beneathAll(rule.handsDown, ids.splice(0))));
    if (ids.length > bounds.mostKeptByRow)
      yield* ask<'alone'>({ kind: 'alone', rule, sources: [], records: ids.length });
    for (const id of ids) claims.push({ type, id, strength: 'write' });
    if (plan.isRead({ type, field })) yield* touchAll(touched, type, ids, [field]);
  }
  return claims.filter(({ type, id }) => entries.get(recordKey({ type, id }))?.kind !== 'create');
}

const typesOfPlans = new WeakMap<Plan, readonly (readonly string[])[]>();

/** For each rule of a plan, in its order, the types that matter to it. */
function typesIn(plan: Plan): readonly (readonly string[])[] {
  let types = typesOfPlans.get(plan);
  if (!types) typesOfPlans.set(plan, (types = plan.turns.map((rule) => [...touchedTypes(rule)])));
  return types;
}

/**
 * All rules to which what is touched matters, and those that are wanted anyway, in their order; where some run in a circle again, until no more is
 * taken as touched.
 */
function* rulesInRounds(
  plan: Plan,
  touched: ReadonlyMap<string, Touched>,
  /** `null`: none is. */
  isWanted: ((rule: AnyCompiled) => boolean) | null,
): Generator<AnyCompiled> {
  const { turns } = plan;
  const isReached = reachedPlaces(typesIn(plan), touched);
  const size = () => [...touched.values()].reduce((sum, { fields }) => sum + 1 + fields.size, 0);
  for (let before = -1; before < size();) {
    before = size();
    for (let at = 0; at < turns.length; at += 1)
      if (isReached(at) || isWanted?.(itemAt(turns, at))) yield itemAt(turns, at);
    if (plan.circles.length === 0) return;
  }
}

/** Records as they stand with what a run has touched so far. */
export function standingIn(touched: ReadonlyMap<string, Touched>): RowsOf {
  const known = new Map<string, Row>();
  return function* (type, ids) {
    const refs = [...ids].map((id) => ({ type, id }));
    const standing = (key: string) => touched.get(key)?.after ?? known.get(key);
    const read = yield* readAll(refs.filter((ref) => !standing(recordKey(ref))));
    for (const [key, row] of read) known.set(key, row);
    return new Map(
      refs.flatMap((ref) => {
        const row = standing(recordKey(ref));
        return row ? [[ref.id, row] as const] : [];
      }),
    );
  };
}

/**
 * What takes something may be written, and what is read for it must stay. What siblings hang under is claimed for writing: nobody may come
 * under it meanwhile.
 */
function* cascadeClaims(
  model: Model,
  rule: ReactingCascade,
  {
    touched,
    isRead,
    bounds: { mostByRow },
  }: { readonly touched: Map<string, Touched>; readonly isRead: boolean; readonly bounds: Bounds },
): Generator<Need, Claim[], Answer> {
  const rowsOf = standingIn(touched);
  const { type } = rule.writes;
  const { recipients, read, manyOf, records } = yield* claimsOfCascade({
    model,
    rule,
    touched,
    rowsOf,
    mostByRow,
  });
  if (manyOf) yield* ask<'alone'>({ kind: 'alone', rule, sources: manyOf, records });
  const [first] = rule.route;
  const shared: Claim[] =
    first?.direction === 'up' && rule.route.length > 1
      ? [...touched.values()].flatMap(({ type: of, after }): Claim[] => {
          const id = of === rule.source ? after?.values[first.link] : null;
          return typeof id === 'string'
            ? [{ type: typeUp(model, of, [first.link]), id, strength: 'write' }]
            : [];
        })
      : [];
  if (isRead) yield* touchAll(touched, type, recipients, [rule.writes.field]);
  return [
    ...shared,
    ...recipients.map((id): Claim => ({ type, id, strength: 'write' })),
    ...read.map((ref): Claim => ({ ...ref, strength: 'read' })),
  ];
}

/**
 * Those that it is for are claimed for writing, so that none gets two; so is what was made for them. What may be made is taken as made: what
 * reads it may change.
 */
function* makingClaims({
  touched,
  ...input
}: {
  readonly model: Model;
  readonly plan: Plan;
  readonly rule: CompiledCreate;
  readonly touched: Map<string, Touched>;
  readonly facts: RunContext | null;
  readonly asked: readonly string[];
}): Generator<Need, Claim[], Answer> {
  const { model, rule } = input;
  const {
    sources,
    made,
    new: rows,
  } = yield* claimsOfCreate({ ...input, touched, rowsOf: standingIn(touched) });
  if (sources.length === 0) return [];
  const source = rule.writes.type;
  const onward = rule.assigned.map(({ target }) => target.key);
  const backward = [
    ...rule.assigned.flatMap(({ returnsTo }) => returnsTo?.key ?? []),
    ...rule.given.map(({ target }) => target.key),
  ];
  const claims = yield* routeClaims(model, rule, touched);
  yield* touchAll(touched, rule.makes, made, [
    ...onward,
    ...(rule.definition.back ? [rule.definition.back] : []),
  ]);
  yield* touchAll(touched, source, sources, [...backward, ...(rule.writes.field ? [rule.writes.field] : [])]);
  for (const row of rows)
    touched.set(`${recordKey(row)} new ${rule.id}`, {
      ...{ type: row.type, id: row.id, before: null, after: row },
      fields: new Set(onward),
    });
  // What a new record names must stay where it is.
  for (const row of rows)
    for (const { link, parent } of model.linksFrom(row.type)) {
      const id = row.values[link];
      if (typeof id === 'string') claims.push({ type: parent, id, strength: 'read' });
    }
  return [
    ...claims,
    ...sources.map((id): Claim => ({ type: source, id, strength: 'write' })),
    ...made.map((id): Claim => ({ type: rule.makes, id, strength: 'write' })),
  ];
}

function* idsAffected(
  model: Model,
  rule: CompiledRule,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, string[], Answer> {
  const { targets } = yield* affectedTargets(model, rule, touched);
  return [...targets.keys()];
}

/** Takes records as changed by a rule: rules further on read them. */
export function* touchAll(
  touched: Map<string, Touched>,
  type: string,
  ids: readonly string[],
  changed: readonly string[],
): Generator<Need, void, Answer> {
  const unknown = ids.filter((id) => !touched.has(recordKey({ type, id }))).map((id) => ({ type, id }));
  const rows = yield* readAll(unknown);
  for (const id of ids) {
    const key = recordKey({ type, id });
    const known = touched.get(key);
    const row = known ? null : rows.get(key);
    if (known) touched.set(key, { ...known, fields: new Set([...known.fields, ...changed]) });
    else if (row) touched.set(key, { type, id, before: row, after: row, fields: new Set(changed) });
  }
}

/** Parents that a link is set to must stay where they are; over a self link so must all that is above them. */
function linkedClaims(model: Model, entries: ReadonlyMap<string, Entry>, above: Above): Claim[] {
  const claims: Claim[] = [];
  const seen = new Set<string>();
  for (const { entry, link, id: start } of linksSet(model, entries.values())) {
    let id: unknown = start;
    while (typeof id === 'string' && !seen.has(`${link.type}.${link.link} ${id}`)) {
      seen.add(`${link.type}.${link.link} ${id}`);
      claims.push({ type: link.parent, id, strength: 'read' });
      id = link.parent === entry.type ? above.row(link.parent, id)?.values[link.link] : null;
    }
  }
  return claims;
}

/** Records up the links of touched records, whose fields a rule reads there; a need for each step. */
function* routeClaims(
  model: Model,
  rule: AnyCompiled,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Claim[], Answer> {
  const claims: Claim[] = [];
  for (const { from, route } of routesUpOf(model, rule)) {
    let at = from;
    let rows: readonly Row[] = [...touched.values()].flatMap((entry) =>
      entry.type === from && entry.after ? [entry.after] : [],
    );
    for (const [index, link] of route.entries()) {
      const { type } = fieldIn(model, at, link);
      if (type.kind !== 'link' || rows.length === 0) break;
      at = type.target;
      const ids = new Set(rows.map((row) => row.values[link]).filter((id) => typeof id === 'string'));
      const refs = [...ids].map((id) => ({ type: at, id }));
      claims.push(...refs.map((ref): Claim => ({ ...ref, strength: 'read' })));
      if (index + 1 === route.length) break;
      const read = yield* readAll(refs);
      rows = refs.flatMap((ref) => touched.get(recordKey(ref))?.after ?? read.get(recordKey(ref)) ?? []);
    }
  }
  return claims;
}

interface RouteUp {
  /** The type of the records from which it goes up. */
  readonly from: string;
  readonly route: readonly string[];
}

/** The ways up within the paths that a rule reads over, each from where it begins. */
function routesUpOf(model: Model, rule: AnyCompiled): RouteUp[] {
  const found = new Map<string, RouteUp>();
  for (const { path } of rule.reads) {
    let start = 0;
    path.forEach((step, at) => {
      if (step.direction === 'down') start = at + 1;
      else if (path[at + 1]?.direction !== 'up') {
        const from = typeAlong(model, rule.writes.type, path.slice(0, start));
        const route = path.slice(start, at + 1).map(({ link }) => link);
        found.set([from, ...route].join('.'), { from, route });
      }
    });
  }
  return [...found.values()];
}

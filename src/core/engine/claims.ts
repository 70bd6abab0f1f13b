import { fieldIn, follow, type Model } from '../model';
import type { Plan } from '../plan';
import type { CompiledRollUp } from '../rules';
import { affectedTargets, type Touched } from './affected';
import { type Entry, readAll } from './apply-edits';
import { linksSet, type Above } from './check-links';
import type { Answer, Claim, Need } from './need';
import { recordKey, type Row } from './record';

export interface ClaimInput {
  readonly model: Model;
  readonly plan: Plan;
  readonly entries: ReadonlyMap<string, Entry>;
  readonly above: Above;
}

/**
 * Every record that a run may write, or whose fields or existence it relies on, found from the edits alone: each field that
 * an edit names is taken as changed, each rule that it reaches as writing. More than is written in the end, never less,
 * as long as the links that it went over stay as they were read; so it is asked again once the locks are held.
 */
export function* claimsOf({ model, plan, entries, above }: ClaimInput): Generator<Need, Claim[], Answer> {
  const claims: Claim[] = linkedClaims(model, entries, above);
  const touched = new Map<string, Touched>(entries);
  for (const entry of entries.values())
    if (entry.before) claims.push({ type: entry.type, id: entry.id, strength: 'write' });
  for (const rule of plan.rules) {
    claims.push(...(yield* routeClaims(model, rule, touched)));
    const { type, field } = rule.writes;
    const { targets } = yield* affectedTargets(model, rule, touched);
    for (const id of targets.keys()) claims.push({ type, id, strength: 'write' });
    const isRead = plan.rules.some((other) =>
      other.reads.some((read) => read.type === type && read.field === field),
    );
    if (isRead) yield* touchAll(touched, rule, [...targets.keys()]);
  }
  return claims.filter(({ type, id }) => entries.get(recordKey({ type, id }))?.kind !== 'create');
}

/** Takes a rule's targets as changed by it: rules further on read them. */
export function* touchAll(
  touched: Map<string, Touched>,
  rule: CompiledRollUp,
  ids: readonly string[],
): Generator<Need, void, Answer> {
  const { type, field } = rule.writes;
  const unknown = ids.filter((id) => !touched.has(recordKey({ type, id }))).map((id) => ({ type, id }));
  const rows = yield* readAll(unknown);
  for (const id of ids) {
    const key = recordKey({ type, id });
    const known = touched.get(key);
    const row = known ? null : rows.get(key);
    if (known) touched.set(key, { ...known, fields: new Set([...known.fields, field]) });
    else if (row) touched.set(key, { type, id, before: row, after: row, fields: new Set([field]) });
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

/** Records up the routes of touched children, whose fields the rule's condition reads; a need for each step. */
function* routeClaims(
  model: Model,
  rule: CompiledRollUp,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Claim[], Answer> {
  const claims: Claim[] = [];
  const routes = new Map<string, readonly string[]>();
  for (const { route } of rule.reads) if (route.length > 0) routes.set(route.join('.'), route);
  if (routes.size === 0) return claims;
  const children = [...touched.values()].filter((entry) => entry.type === rule.link.type);
  for (const route of routes.values()) {
    let rows: readonly Row[] = children.flatMap((child) => child.after ?? []);
    for (const [index, step] of route.entries()) {
      const from = follow(model, rule.link.type, route.slice(0, index))!;
      const { type } = fieldIn(model, from, step);
      if (type.kind !== 'link') break;
      const ids = new Set(rows.map((row) => row.values[step]).filter((id) => typeof id === 'string'));
      const refs = [...ids].map((id) => ({ type: type.target, id }));
      claims.push(...refs.map((ref): Claim => ({ ...ref, strength: 'read' })));
      if (index + 1 === route.length) break;
      const read = yield* readAll(refs);
      rows = refs.flatMap((ref) => touched.get(recordKey(ref))?.after ?? read.get(recordKey(ref)) ?? []);
    }
  }
  return claims;
}

import { fieldIn, type Model } from '../model';
import type { Plan } from '../plan';
import type { CompiledRollUp } from '../rules';
import { affectedTargets, type Touched } from './affected';
import { ask, type Answer, type Claim, type Need, rowSet } from './need';
import { recordKey, type Row } from './record';

/**
 * Every record that a run may write, or whose fields or existence it relies on, found from the edits alone: each field that
 * an edit names is taken as changed, each rule that it reaches as writing. More than is written in the end, never less,
 * as long as the links that it went over stay as they were read; so it is asked again once the locks are held.
 */
export function* claimsOf(
  model: Model,
  plan: Plan,
  edited: ReadonlyMap<string, Touched>,
): Generator<Need, Claim[], Answer> {
  const claims: Claim[] = [];
  const touched = new Map(edited);
  for (const entry of edited.values()) {
    if (entry.before) claims.push({ type: entry.type, id: entry.id, strength: 'write' });
    claims.push(...(yield* linkedClaims(model, entry)));
  }
  for (const rule of plan.rules) {
    claims.push(...(yield* routeClaims(model, rule, touched)));
    const targets = yield* affectedTargets(model, rule, touched);
    const { rows } = yield* ask<'records'>({
      kind: 'records',
      set: rowSet(rule.writes.type, targets.keys()),
    });
    for (const [id, row] of rows) {
      claims.push({ type: rule.writes.type, id, strength: 'write' });
      const key = recordKey(row);
      const known = touched.get(key);
      const fields = new Set([...(known?.fields ?? []), rule.writes.field]);
      touched.set(key, {
        type: row.type,
        id,
        before: known ? known.before : row,
        after: known ? known.after : row,
        fields,
      });
    }
  }
  return claims.filter(({ type, id }) => !isNew(edited.get(recordKey({ type, id }))));
}

const isNew = (entry: Touched | undefined): boolean => entry !== undefined && entry.before === null;

/** Parents that an edit names must stay where they are; over a self link so must all that is above them. */
function* linkedClaims(model: Model, entry: Touched): Generator<Need, Claim[], Answer> {
  const claims: Claim[] = [];
  for (const { link, parent } of model.linksFrom(entry.type)) {
    if (!entry.fields.has(link)) continue;
    let id = entry.after?.values[link];
    const seen = new Set<unknown>([null, undefined]);
    while (!seen.has(id)) {
      seen.add(id);
      claims.push({ type: parent, id: id as string, strength: 'read' });
      if (parent !== entry.type) break;
      const answer: { rows: ReadonlyMap<string, Row> } = yield* ask<'records'>({
        kind: 'records',
        set: rowSet(parent, [id as string]),
      });
      id = answer.rows.get(id as string)?.values[link];
    }
  }
  return claims;
}

/** Records up the routes of touched children, whose fields the rule's condition reads. */
function* routeClaims(
  model: Model,
  rule: CompiledRollUp,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Claim[], Answer> {
  const claims: Claim[] = [];
  const children = [...touched.values()].filter((entry) => entry.type === rule.link.type && entry.after);
  for (const read of rule.reads.filter((candidate) => candidate.route.length > 0)) {
    for (const child of children) {
      let row: Row | null | undefined = child.after;
      for (const step of read.route) {
        const id: unknown = row?.values[step];
        if (!row || typeof id !== 'string') break;
        const { type } = fieldIn(model, row.type, step);
        if (type.kind !== 'link') break;
        claims.push({ type: type.target, id, strength: 'read' });
        const answer: { rows: ReadonlyMap<string, Row> } = yield* ask<'records'>({
          kind: 'records',
          set: rowSet(type.target, [id]),
        });
        row = answer.rows.get(id);
      }
    }
  }
  return claims;
}

import { type Model, type Step, typeAlong, typeUp } from '@/core/model';
import { type ReactingCascade, turnOf } from '@/core/rules';
import { certain, compareText, firstIn, itemAt, sameValue, type Value, valueAt } from '@/core/values';
import { cameBack, causesInOrder, isThere } from '@/core/engine/reach/affected';
import { ask, type Answer, type Answers, type Need, rowSet } from '@/core/engine/driver/need';
import { type CellRef, recordKey, type Row } from '@/core/engine/driver/record';
import { type RowsOf } from '@/core/engine/reach/route-reader';
import type { Recipients } from './cascade-input';
import type { CascadeSource } from './cascade-input';
import type { CascadeInput } from './cascade-input';

type CascadeRoute = Pick<ReactingCascade, 'source' | 'route'> & Partial<Pick<ReactingCascade, 'isAllTheWay'>>;

/** From records along a route: by what lies at its end, from which of them it was reached. */
export function* walkRoute(
  model: Model,
  rule: CascadeRoute,
  sources: Iterable<string>,
  rowsOf: RowsOf,
): Generator<Need, Map<string, Set<string>>, Answer> {
  return certain(yield* alongUpTo(model, rule, sources, { rowsOf, most: null }));
}

interface UpTo {
  readonly rowsOf: RowsOf;
  /** More than so many aren't wanted one by one; `null` for all. */
  readonly most: number | null;
  /** More pairs of a record reached and one that it was reached from aren't wanted. */
  readonly mostPairs?: number;
}

/** The same, or `null` where more are reached than are wanted. */
export function* alongUpTo(
  model: Model,
  rule: CascadeRoute,
  sources: Iterable<string>,
  { rowsOf, most, mostPairs = Infinity }: UpTo,
): Generator<Need, Map<string, Set<string>> | null, Answer> {
  if (rule.isAllTheWay) return yield* allBeneath(rule, sources);
  let reached = new Map<string, Set<string>>([...sources].map((id) => [id, new Set([id])]));
  let type = rule.source;
  for (const step of rule.route) {
    if (reached.size === 0) break;
    const next = new Map<string, Set<string>>();
    let pairs = 0;
    const add = (to: string, from: string) => {
      if (pairs > mostPairs) return;
      const known = next.get(to) ?? new Set<string>();
      pairs -= known.size;
      for (const id of valueAt(reached, from)) known.add(id);
      pairs += known.size;
      next.set(to, known);
    };
    if (step.direction === 'down') {
      const parents = rowSet(type, reached.keys());
      const link = { type: step.type, link: step.link };
      const found: Answers['related'] = yield* ask<'related'>({
        ...{ kind: 'related', parents, link },
        ...(most === null ? {} : { most }),
      });
      if (found.isMore) return null;
      for (const [child, parent] of found.parentOf) add(child, parent);
      type = step.type;
    } else {
      for (const row of (yield* rowsOf(type, reached.keys())).values()) {
        const to = row.values[step.link];
        if (!row.deleted && typeof to === 'string') add(to, row.id);
      }
      type = typeUp(model, type, [step.link]);
    }
    if (pairs > mostPairs) return null;
    reached = next;
  }
  return reached;
}

/** By target, then by source: the record across which one leads to the other, of several the one that was made first. */
export function* acrossWhich(
  model: Model,
  { source, route }: CascadeRoute,
  sources: Iterable<string>,
  rowsOf: RowsOf,
): Generator<Need, Map<string, Map<string, Row>>, Answer> {
  const turn = turnOf(route);
  const type = typeAlong(model, source, route.slice(0, turn));
  const beneath = yield* walkRoute(model, { source, route: route.slice(0, turn) }, sources, rowsOf);
  const bridges = yield* rowsOf(type, beneath.keys());
  const up = { source: type, route: route.slice(turn) };
  const reached = new Map<string, Map<string, Row>>();
  for (const [target, across] of yield* walkRoute(model, up, beneath.keys(), rowsOf)) {
    const found = new Map<string, Row>();
    for (const id of [...across].sort(compareText))
      for (const from of valueAt(beneath, id)) if (!found.has(from)) found.set(from, valueAt(bridges, id));
    reached.set(target, found);
  }
  return reached;
}

/** All that lies beneath over a self link, level by level, each reached from the nearest above it. */
function* allBeneath(
  { source: type, route }: CascadeRoute,
  sources: Iterable<string>,
): Generator<Need, Map<string, Set<string>>, Answer> {
  const step = firstIn(route);
  const from = new Map([...sources].map((id) => [id, id]));
  const reached = new Map<string, Set<string>>();
  for (let level = new Map(from); level.size > 0;) {
    const parents = rowSet(type, level.keys());
    const { parentOf }: Answers['related'] = yield* ask<'related'>({
      ...{ kind: 'related', parents, link: { type, link: step.link } },
    });
    const next = new Map<string, string>();
    for (const [child, parent] of parentOf) {
      if (reached.has(child)) continue;
      reached.set(child, new Set([valueAt(level, parent)]));
      if (!from.has(child)) next.set(child, valueAt(level, parent));
    }
    level = next;
  }
  return reached;
}

/** At creation: what was made, attached or moved in the run, under the record that it hangs under now. */
export function* startingOf(
  { model, rule, touched, rowsOf }: CascadeInput,
  up: readonly string[],
): Generator<Need, Recipients, Answer> {
  const { type } = rule.writes;
  const causes = new Map<string, CellRef[]>();
  /** What each hung under before, as far up as it was moved. */
  const formers: Climber[] = [];
  const note = (id: string, cause: CellRef) => void causes.set(id, [...(causes.get(id) ?? []), cause]);
  for (const entry of touched.values()) {
    const { id, before, after } = entry;
    if (!isThere(after) || cameBack(entry)) continue;
    if (!isThere(before)) {
      if (entry.type === type) note(id, { type, id, field: '' });
      continue;
    }
    for (const [at, link] of up.entries()) {
      if (typeAt(model, type, up, at) !== entry.type) continue;
      const former = before.values[link] ?? null;
      if (sameValue(former, after.values[link] ?? null)) continue;
      for (const recipient of yield* walkDown(model, type, up.slice(0, at), id, rowsOf)) {
        note(recipient, { type: entry.type, id, field: link });
        formers.push({ recipient, at: at + 1, id: former });
      }
    }
  }
  const here = [...causes.keys()].map((recipient): Climber => ({ recipient, at: 0, id: recipient }));
  const sources = yield* walkUp(model, { type, up }, here, rowsOf);
  const were = yield* walkUp(model, { type, up }, formers, rowsOf);
  const recipients = new Map<string, CascadeSource[]>();
  for (const [id, because] of causes) {
    const source = sources.get(id);
    if (!source) continue;
    const former = were.get(id) ?? null;
    recipients.set(id, [{ source, before: source, former, causes: causesInOrder(because) }]);
  }
  return recipients;
}

/** At creation from siblings: those that were there before the run, of what was made, attached or moved. */
export function* besideOf(
  { model, rule, touched, rowsOf }: Omit<CascadeInput, 'facts'>,
  link: string,
): Generator<Need, Recipients, Answer> {
  const { type } = rule.writes;
  const causes = new Map<string, CellRef[]>();
  const under = new Map<string, string[]>();
  for (const entry of touched.values()) {
    const { type: of, id, before, after } = entry;
    if (of !== type || !isThere(after) || cameBack(entry)) continue;
    const parent = after.values[link];
    const isMade = !isThere(before);
    if (typeof parent !== 'string' || (!isMade && sameValue(before.values[link] ?? null, parent))) continue;
    causes.set(id, [{ type, id, field: isMade ? '' : link }]);
    under.set(parent, [...(under.get(parent) ?? []), id]);
  }
  if (under.size === 0) return new Map();
  const parents = rowSet(typeUp(model, type, [link]), under.keys());
  const { parentOf }: Answers['related'] = yield* ask<'related'>({
    kind: 'related',
    parents,
    link: { type, link },
  });
  const wasThere = (id: string) => {
    const entry = touched.get(recordKey({ type, id }));
    return !entry || (isThere(entry.before) && !causes.has(id));
  };
  const rows = yield* rowsOf(type, [...parentOf.keys()].filter(wasThere));
  const recipients = new Map<string, CascadeSource[]>();
  for (const row of rows.values())
    for (const id of under.get(valueAt(parentOf, row.id)) ?? [])
      recipients.set(id, [
        ...(recipients.get(id) ?? []),
        { source: row, before: row, former: null, causes: valueAt(causes, id) },
      ]);
  return recipients;
}

export const typeAt = (model: Model, type: string, up: readonly string[], index: number): string =>
  typeUp(model, type, up.slice(0, index));

/** The records from which a way up leads to one. */
export function* walkDown(
  model: Model,
  type: string,
  up: readonly string[],
  id: string,
  rowsOf: RowsOf,
): Generator<Need, Iterable<string>, Answer> {
  if (up.length === 0) return [id];
  const steps = up.map((link, at): Step => ({ direction: 'down', type: typeAt(model, type, up, at), link }));
  const route = steps.reverse();
  return (yield* walkRoute(model, { source: typeUp(model, type, up), route }, [id], rowsOf)).keys();
}

/** On its way up from a record that takes something: how many links lie behind, and where it is. */
export interface Climber {
  readonly recipient: string;
  readonly at: number;
  readonly id: Value;
}

/** The records at the end of a way up, all of a step at once; none where a link is empty or a record on the way is in the bin. */
export function* walkUp(
  model: Model,
  { type, up }: { readonly type: string; readonly up: readonly string[] },
  walkers: readonly Climber[],
  rowsOf: RowsOf,
): Generator<Need, Map<string, Row>, Answer> {
  let at = [...walkers];
  const found = new Map<string, Row>();
  for (let step = 0; step <= up.length; step += 1) {
    const now = at.filter((one) => one.at === step && typeof one.id === 'string');
    if (now.length === 0) continue;
    const rows = yield* rowsOf(
      typeAt(model, type, up, step),
      now.map(({ id }) => id as string),
    );
    const there = (one: Climber): Row | null => {
      const row = rows.get(one.id as string);
      return row && !row.deleted ? row : null;
    };
    if (step < up.length)
      at = at.map((one) =>
        one.at === step ? { ...one, at: step + 1, id: there(one)?.values[itemAt(up, step)] ?? null } : one,
      );
    else
      for (const one of now) {
        const row = there(one);
        if (row) found.set(one.recipient, row);
      }
  }
  return found;
}

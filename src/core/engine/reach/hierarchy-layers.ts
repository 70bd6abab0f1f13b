import { type Model, typeIn } from '@/core/model';
import type { CompiledRule } from '@/core/rules';
import { certain, compareText, firstIn, valueAt } from '@/core/values';
import type { Touched } from '@/core/engine/driver/record';
import { readAll } from '@/core/engine/driver/read-all';
import { ask, type Answer, type Answers, type Need, rowSet } from '@/core/engine/driver/need';
import { recordKey, type Row } from '@/core/engine/driver/record';

/** Records that a rule which goes all the way down is made for one after the other, and what each is a part of. */
export interface Layers {
  /** Parts before what they are parts of; those of one layer don't hang on each other. */
  readonly layers: readonly (readonly string[])[];
  readonly wholesOf: ReadonlyMap<string, readonly string[]>;
  /** Records that lie inside themselves, at any distance: empty where none do. */
  readonly loop: readonly string[];
}

/**
 * Everything that some records are parts of, at any distance, by the links as they stand in this run, in an order in which the rule
 * can be worked out for each once. Records in a loop are in no layer.
 */
export function* layersAbove(
  rule: CompiledRule,
  parts: Iterable<string>,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Layers, Answer> {
  const wholesOf = new Map<string, readonly string[]>();
  const rows = new Map<string, Row>();
  let level = [...new Set(parts)];
  while (level.length > 0) {
    const found = certain(rule.recursion).up
      ? yield* wholesOverBridge(rule, level, touched)
      : yield* wholesOverLink(rule, level, touched, rows);
    for (const id of level) wholesOf.set(id, found.get(id) ?? []);
    const next = new Set<string>();
    for (const id of level)
      for (const whole of valueAt(wholesOf, id)) if (!wholesOf.has(whole)) next.add(whole);
    level = [...next];
  }
  return inLayers(wholesOf);
}

/** Some records and all their parts, at any distance, by the links as they stand in this run; each once. */
export function* partsBeneath(
  rule: CompiledRule,
  wholes: readonly string[],
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, string[], Answer> {
  const found = new Set(wholes);
  const { down, up } = certain(rule.recursion);
  let level: readonly string[] = wholes;
  while (level.length > 0) {
    const { parentOf }: Answers['related'] = yield* ask<'related'>({
      ...{ kind: 'related', parents: rowSet(rule.writes.type, level), link: down },
    });
    let parts: readonly string[] = [...parentOf.keys()];
    if (up !== null) {
      const read = yield* readAll(parts.map((id) => ({ type: down.type, id })));
      parts = [...read.values()].flatMap((row) => {
        const part = (touched.get(recordKey(row))?.after ?? row).values[up];
        return typeof part === 'string' ? [part] : [];
      });
    }
    level = [...new Set(parts)].filter((id) => !found.has(id));
    for (const id of level) found.add(id);
  }
  return [...found];
}

/** Kahn 1962, a layer at a time. */
function inLayers(wholesOf: ReadonlyMap<string, readonly string[]>): Layers {
  const waiting = new Map<string, number>();
  for (const id of wholesOf.keys()) waiting.set(id, 0);
  for (const wholes of wholesOf.values())
    for (const whole of wholes) waiting.set(whole, valueAt(waiting, whole) + 1);
  const layers: string[][] = [];
  let layer = [...waiting].flatMap(([id, parts]) => (parts === 0 ? [id] : []));
  while (layer.length > 0) {
    layers.push(layer);
    const next: string[] = [];
    for (const id of layer) {
      waiting.delete(id);
      for (const whole of valueAt(wholesOf, id)) {
        const left = valueAt(waiting, whole) - 1;
        waiting.set(whole, left);
        if (left === 0) next.push(whole);
      }
    }
    layer = next;
  }
  return { layers, wholesOf, loop: loopAmong(waiting, wholesOf) };
}

/** One way round among records that wait for each other, the same whatever their order. */
function loopAmong(
  waiting: ReadonlyMap<string, number>,
  wholesOf: ReadonlyMap<string, readonly string[]>,
): string[] {
  // What waits lies on a loop or above one: from any of them down through a part that waits, it comes round.
  const partOf = new Map<string, string>();
  for (const id of [...waiting.keys()].sort(compareText))
    for (const whole of valueAt(wholesOf, id)) if (!partOf.has(whole)) partOf.set(whole, id);
  const path: string[] = [];
  let at = [...waiting.keys()].sort(compareText)[0];
  while (at !== undefined && !path.includes(at)) {
    path.push(at);
    at = partOf.get(at);
  }
  return at === undefined ? [] : [...path.slice(path.indexOf(at)), at];
}

/** Over a self link: what is known of this run, and the rest of the way up in one need. */
function* wholesOverLink(
  rule: CompiledRule,
  ids: readonly string[],
  touched: ReadonlyMap<string, Touched>,
  rows: Map<string, Row>,
): Generator<Need, Map<string, readonly string[]>, Answer> {
  const { type } = rule.writes;
  const link = certain(rule.recursion).down;
  const now = (id: string) => touched.get(recordKey({ type, id }))?.after ?? rows.get(id);
  const unread = ids.filter((id) => !now(id));
  if (unread.length > 0) {
    const answer: Answers['above'] = yield* ask<'above'>({ kind: 'above', set: rowSet(type, unread), link });
    for (const [id, row] of answer.rows) rows.set(id, row);
  }
  return new Map(
    ids.map((id) => {
      const row = now(id);
      const whole = row && !row.deleted ? row.values[link.link] : null;
      return [id, typeof whole === 'string' ? [whole] : []];
    }),
  );
}

/** Over a bridge of the type with itself: the records of the bridge that name them as parts. */
function* wholesOverBridge(
  rule: CompiledRule,
  ids: readonly string[],
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Map<string, readonly string[]>, Answer> {
  const { down, up } = certain(rule.recursion);
  const { type } = down;
  const { parentOf }: Answers['related'] = yield* ask<'related'>({
    kind: 'related',
    parents: rowSet(rule.writes.type, ids),
    link: { type, link: certain(up) },
  });
  const untouched = [...parentOf.keys()].filter((id) => !touched.has(recordKey({ type, id })));
  const read = yield* readAll(untouched.map((id) => ({ type, id })));
  const bridge: Row[] = [...read.values()];
  for (const entry of touched.values()) if (entry.type === type && entry.after) bridge.push(entry.after);
  const wanted = new Set(ids);
  const wholes = new Map<string, Set<string>>();
  for (const row of bridge) {
    const [part, whole] = [row.values[certain(up)], row.values[down.link]];
    if (row.deleted || typeof part !== 'string' || typeof whole !== 'string' || !wanted.has(part)) continue;
    const known = wholes.get(part);
    if (known) known.add(whole);
    else wholes.set(part, new Set([whole]));
  }
  return new Map(Array.from(wholes, ([part, of]) => [part, [...of]]));
}

/** A loop that a rule would run in, by the names of the records on it. */
export function loopWords(model: Model, rule: CompiledRule, titles: readonly string[]): string {
  const { name } = typeIn(model, rule.writes.type);
  const shown = titles.length > MOST_NAMED ? [...titles.slice(0, MOST_NAMED), '…'] : titles;
  return `${name} “${firstIn(titles)}” would be a part of itself (${shown.join(' → ')}), and “${rule.name}” goes all the way down. Leave out one of these parts.`;
}

const MOST_NAMED = 12;

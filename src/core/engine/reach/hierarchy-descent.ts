import { valueAt } from '@/core/values';
import type { LinkRef } from '@/core/model';
import { ask, type Answer, type Answers, type Need, rowSet } from '@/core/engine/driver/need';
import type { Row } from '@/core/engine/driver/record';
import type { RowsOf } from './route-reader';

/** Records with all that lies beneath them over a self link, at any depth. */
export function* beneathAll(link: LinkRef, ids: readonly string[]): Generator<Need, string[], Answer> {
  const found = new Set(ids);
  for (let level: readonly string[] = ids; level.length > 0;) {
    const children = yield* childrenOf(link, level);
    level = [...children.keys()].filter((id) => !found.has(id));
    for (const id of level) found.add(id);
  }
  return [...found];
}

/** What lies right beneath records over a self link, each with the one that it hangs under. */
export function* childrenOf(
  link: LinkRef,
  ids: readonly string[],
): Generator<Need, ReadonlyMap<string, string>, Answer> {
  if (ids.length === 0) return new Map();
  const { parentOf }: Answers['related'] = yield* ask<'related'>({
    ...{ kind: 'related', parents: rowSet(link.type, ids), link },
  });
  return parentOf;
}

/** How deep each record lies over a self link, as records stand in a run; those at the top, or under one that isn't there, lie at 0. */
export function* depthsOf(
  { type, link }: LinkRef,
  ids: readonly string[],
  rowsOf: RowsOf,
): Generator<Need, Map<string, number>, Answer> {
  const rows = new Map<string, Row>();
  for (let wanted: readonly string[] = ids; wanted.length > 0;) {
    const read = yield* rowsOf(type, wanted);
    for (const [id, row] of read) rows.set(id, row);
    wanted = [...new Set([...read.values()].map((row) => row.values[link]))].filter(
      (id): id is string => typeof id === 'string' && !rows.has(id),
    );
  }
  const depths = new Map<string, number>();
  const path: string[] = [];
  for (const start of ids) {
    let at: unknown = start;
    while (typeof at === 'string' && !depths.has(at) && rows.has(at) && !valueAt(rows, at).deleted) {
      path.push(at);
      at = valueAt(rows, at).values[link];
    }
    let depth = typeof at === 'string' ? (depths.get(at) ?? -1) : -1;
    for (let id = path.pop(); id !== undefined; id = path.pop()) depths.set(id, (depth += 1));
  }
  return depths;
}

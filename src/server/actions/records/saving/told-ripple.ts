import { MemoryStore, recordKey, type RecordRef, type Ripple, type Row } from '@/core/engine';
import { firstIn } from '@/core/values';
import { rippleView, type RippleView } from '@/core/verify';
import type { LoadedWorkspace } from '@/server/store/session/workspace';

/** The ripple in words, with the titles of all records that it names. */
export function ripplesView(
  { model, plan, people }: LoadedWorkspace,
  named: readonly Row[],
  ripple: Ripple,
): RippleView {
  const store = new MemoryStore(model, true);
  for (const row of named) store.put(row);
  return rippleView({ model, plan, store, names: Object.fromEntries(people) }, ripple);
}

/** The records that a ripple names: those that change, their causes, and what their links name. */
export function namedIn({ model }: LoadedWorkspace, ripple: Ripple): RecordRef[] {
  const refs = new Map<string, RecordRef>();
  const add = (ref: RecordRef) => refs.set(recordKey(ref), { type: ref.type, id: ref.id });
  for (const entry of [...ripple.events, ...ripple.changes]) [entry, ...entry.causes].forEach(add);
  ripple.overruled.forEach(add);
  ripple.lapsed.forEach(add);
  for (const { type, ids } of ripple.later) add({ type, id: firstIn(ids) });
  for (const { type, field, before, after } of ripple.changes) {
    const value = model.field(type, field)?.type;
    if (value?.kind !== 'link') continue;
    for (const id of [before, after]) if (typeof id === 'string') add({ type: value.target, id });
  }
  return [...refs.values()];
}

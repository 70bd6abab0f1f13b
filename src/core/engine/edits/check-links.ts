import { certain, firstIn } from '@/core/values';
import { grouped } from '@/core/grouped';
import { type Link, type Model, typeIn } from '@/core/model';
import { titleOf } from './apply-edits';
import { type Entry, type EditProblem } from './types';
import { ask, type Answer, type Answers, type Need, rowSet } from '@/core/engine/driver/need';
import { recordKey, type Row } from '@/core/engine/driver/record';

/** Records that the links of touched records name, and over self links all that lies above them. */
export interface Above {
  row(type: string, id: string): Row | null;
  /** Whether a record that isn't there doesn't exist, or may lie outside what is loaded. */
  readonly isKnown: boolean;
}

interface Named {
  readonly entry: Entry;
  readonly link: Link;
  readonly id: string;
}

/** Links that a run sets: changed ones, and all those of a record that is made or restored. */
export function linksSet(model: Model, entries: Iterable<Entry>): Named[] {
  const named: Named[] = [];
  for (const entry of entries) {
    if (entry.kind === 'delete' || !entry.after) continue;
    for (const link of model.linksFrom(entry.type)) {
      const id = entry.after.values[link.link];
      const isSet = entry.kind === 'restore' || entry.fields.has(link.link);
      if (isSet && typeof id === 'string') named.push({ entry, link, id });
    }
  }
  return named;
}

/** Reads what the links that a run sets lead to, a few needs for all of them together. */
export function* readAbove(
  model: Model,
  entries: ReadonlyMap<string, Entry>,
): Generator<Need, Above, Answer> {
  const rows = new Map<string, Row>();
  const absent = new Set<string>();
  let isKnown = true;
  const row = (type: string, id: string): Row | null => {
    const key = recordKey({ type, id });
    return entries.get(key)?.after ?? rows.get(key) ?? null;
  };
  const groups = grouped(linksSet(model, entries.values()), ({ entry, link }) =>
    link.parent === entry.type ? `${link.type}.${link.link}` : link.parent,
  );
  for (const group of groups.values()) {
    const { link } = firstIn(group);
    const isSelf = link.parent === link.type;
    // An edited record higher up may lead elsewhere than it does in the store: then what lies there is read too.
    let wanted = new Set(group.map(({ id }) => id));
    while (wanted.size > 0) {
      const set = rowSet(link.parent, wanted);
      const answer: Answers['above'] = isSelf
        ? yield* ask<'above'>({ kind: 'above', set, link })
        : yield* ask<'records'>({ kind: 'records', set });
      isKnown &&= answer.known;
      for (const found of answer.rows.values()) rows.set(recordKey(found), found);
      for (const id of wanted) if (!answer.rows.has(id)) absent.add(id);
      wanted = isSelf ? unread(link, group, row, absent) : new Set();
    }
  }
  return { row, isKnown };
}

/** Records further up that aren't read yet. */
function unread(
  link: Link,
  group: readonly Named[],
  row: (type: string, id: string) => Row | null,
  absent: ReadonlySet<string>,
): Set<string> {
  const missing = new Set<string>();
  const seen = new Set<string>();
  for (const { id: start } of group) {
    let id: unknown = start;
    while (typeof id === 'string' && !seen.has(id)) {
      seen.add(id);
      const found = row(link.parent, id);
      if (!found && !absent.has(id)) missing.add(id);
      id = found?.values[link.link];
    }
  }
  return missing;
}

/** Links that a run can't set: to a record that is gone or in the bin, or one that would make a loop in a hierarchy. */
export function checkLinks(model: Model, entries: ReadonlyMap<string, Entry>, above: Above): EditProblem[] {
  return linksSet(model, entries.values()).flatMap((named) => {
    const problem =
      parentProblem(model, named, above) ??
      (named.link.parent === named.entry.type ? loopProblem(model, named, above) : null);
    return problem ? [{ ...problem, place: named.link.link, index: named.entry.index }] : [];
  });
}

type Found = Omit<EditProblem, 'index'>;

function parentProblem(model: Model, { entry, link, id }: Named, above: Above): Found | null {
  const parent = typeIn(model, link.parent);
  const row = above.row(link.parent, id);
  if (row?.deleted) {
    const advice =
      entry.kind === 'restore'
        ? `Restore that first, or with it`
        : 'Choose another, or restore it from the bin';
    const message = `${link.field.name}: ${parent.name} “${titleOf(model, row)}” has been deleted. ${advice}.`;
    return { code: 'link.deleted', message };
  }
  if (row || !above.isKnown) return null; // outside what is loaded: nothing can be said against it here
  const message = `${link.field.name}: there is no ${parent.name} with the id ${id}. Choose one that exists.`;
  return { code: 'link.gone', message };
}

/** Coming back to the record itself on the way up is a loop, named with all that lies on it. */
function loopProblem(model: Model, { entry, link, id: start }: Named, above: Above): Found | null {
  const chain = [titleOf(model, certain(entry.after))];
  const seen = new Set<string>();
  let id: unknown = start;
  while (typeof id === 'string' && !seen.has(id)) {
    seen.add(id);
    const row = above.row(link.parent, id);
    if (!row) return null;
    chain.push(titleOf(model, row));
    if (id === entry.id) {
      const message = `${link.field.name}: “${chain[0]}” would lie inside itself (${shortened(chain).join(' → ')}). Choose a parent outside it.`;
      return { code: 'link.loop', message, data: { chain } };
    }
    id = row.values[link.link];
  }
  return null;
}

const MOST_NAMED = 12;

const shortened = (chain: readonly string[]): readonly string[] =>
  chain.length <= MOST_NAMED
    ? chain
    : [
        ...chain.slice(0, MOST_NAMED / 2),
        `${chain.length - MOST_NAMED} more`,
        ...chain.slice(-MOST_NAMED / 2),
      ];

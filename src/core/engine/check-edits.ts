import { type Link, type Model, typeIn } from '../model';
import type { Touched } from './affected';
import type { Edit, EditProblem } from './edit';
import { ask, type Answer, type Need, rowSet } from './need';
import { recordKey, type Row } from './record';

export const titleOf = (model: Model, row: Row): string =>
  (row.values[typeIn(model, row.type).title] as string | null) ?? row.id;

/**
 * What of the edits can't be done to the records as they stand: a record that is gone or that somebody else changed, a link
 * to a record that is gone, a loop in a hierarchy, a parent that still has children.
 */
export function* checkEdits(
  model: Model,
  edits: readonly Edit[],
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, EditProblem[], Answer> {
  const problems: EditProblem[] = [];
  for (const [index, edit] of edits.entries()) {
    const entry = touched.get(recordKey(edit))!;
    const standing = checkStanding(model, edit, entry);
    if (standing) {
      problems.push({ ...standing, index });
      continue;
    }
    const found =
      edit.kind === 'delete'
        ? yield* checkChildren(model, entry, touched)
        : yield* checkLinks(model, entry, touched);
    problems.push(...found.map((problem) => ({ ...problem, index })));
  }
  return problems;
}

type Found = Omit<EditProblem, 'index'>;

function checkStanding(model: Model, edit: Edit, { before }: Touched): Found | null {
  const { name } = typeIn(model, edit.type);
  if (edit.kind === 'create') {
    return before
      ? {
          code: 'edit.exists',
          message: `${name} ${edit.id} exists already. Edit it, or leave its id out.`,
          place: 'id',
        }
      : null;
  }
  if (!before)
    return {
      code: 'edit.gone',
      message: `There is no ${name} ${edit.id}. Reload the list; it may have been another type.`,
      place: 'id',
    };
  if (before.deleted) {
    return {
      code: 'edit.deleted',
      message: `${name} “${titleOf(model, before)}” has been deleted. Reload to see what is there now.`,
      place: 'id',
    };
  }
  if (edit.version !== undefined && edit.version !== before.version) {
    const message = `“${titleOf(model, before)}” was changed by somebody else: you saw version ${edit.version}, it is now at ${before.version}. Reload it and enter your changes again.`;
    return {
      code: 'edit.version',
      message,
      place: 'version',
      data: { seen: edit.version, current: before.version },
    };
  }
  return null;
}

function* checkLinks(
  model: Model,
  entry: Touched,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Found[], Answer> {
  const problems: Found[] = [];
  for (const link of model.linksFrom(entry.type)) {
    const id = entry.after?.values[link.link];
    if (!entry.fields.has(link.link) || typeof id !== 'string') continue;
    const { row, known } = yield* currentRow(link.parent, id, touched);
    const problem =
      checkParent(model, link, row, known, id) ??
      (link.parent === entry.type ? yield* checkLoop(model, entry, link, touched) : null);
    if (problem) problems.push({ ...problem, place: link.link });
  }
  return problems;
}

function* currentRow(
  type: string,
  id: string,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, { row: Row | null; known: boolean }, Answer> {
  const entry = touched.get(recordKey({ type, id }));
  if (entry) return { row: entry.after, known: true };
  const { rows, known } = yield* ask<'records'>({ kind: 'records', set: rowSet(type, [id]) });
  return { row: rows.get(id) ?? null, known };
}

function checkParent(model: Model, link: Link, row: Row | null, known: boolean, id: string): Found | null {
  const parent = typeIn(model, link.parent);
  if (row?.deleted)
    return {
      code: 'link.deleted',
      message: `${link.field.name}: ${parent.name} “${titleOf(model, row)}” has been deleted. Choose another.`,
    };
  if (row || !known) return null; // outside what is loaded: nothing can be said against it here
  return {
    code: 'link.gone',
    message: `${link.field.name}: there is no ${parent.name} with the id ${id}. Choose one that exists.`,
  };
}

/** Walks up from the new parent; coming back to the record itself is a loop, named with all that lies on it. */
function* checkLoop(
  model: Model,
  entry: Touched,
  link: Link,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Found | null, Answer> {
  const chain = [titleOf(model, entry.after!)];
  const seen = new Set<string>();
  let id = entry.after!.values[link.link];
  while (typeof id === 'string' && !seen.has(id)) {
    seen.add(id);
    const { row } = yield* currentRow(link.parent, id, touched);
    if (!row) return null;
    chain.push(titleOf(model, row));
    if (id === entry.id) {
      const message = `${link.field.name}: “${chain[0]}” would lie inside itself (${chain.join(' → ')}). Choose a parent outside it.`;
      return { code: 'link.loop', message, data: { chain } };
    }
    id = row.values[link.link] ?? null;
  }
  return null;
}

function* checkChildren(
  model: Model,
  entry: Touched,
  touched: ReadonlyMap<string, Touched>,
): Generator<Need, Found[], Answer> {
  const problems: Found[] = [];
  for (const link of model.linksTo(entry.type)) {
    const { ids } = yield* ask<'related'>({ kind: 'related', parents: rowSet(entry.type, [entry.id]), link });
    const left = new Set(ids.filter((id) => stillNames(link, id, entry.id, touched)));
    for (const other of touched.values())
      if (other.type === link.type && stillNames(link, other.id, entry.id, touched)) left.add(other.id);
    if (left.size === 0) continue;
    const child = typeIn(model, link.type);
    const message = `“${titleOf(model, entry.before!)}” can’t be deleted: ${left.size} ${left.size === 1 ? child.name : child.plural} still name it as ${link.field.name}. Move or delete them first.`;
    problems.push({
      code: 'delete.children',
      message,
      place: 'id',
      data: { type: link.type, count: left.size },
    });
  }
  return problems;
}

/** Whether a child names the parent once the edits are made; children that aren't edited do (they were found by it). */
function stillNames(link: Link, id: string, parent: string, touched: ReadonlyMap<string, Touched>): boolean {
  const entry = touched.get(recordKey({ type: link.type, id }));
  if (!entry) return true;
  return entry.after !== null && !entry.after.deleted && entry.after.values[link.link] === parent;
}

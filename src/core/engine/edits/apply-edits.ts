import { article } from '@/core/article';
import { grouped } from '@/core/grouped';
import { type Link, type Model, typeIn } from '@/core/model';
import { certain, compareText, itemAt, sameValue, valueAt } from '@/core/values';
import { isThere } from '@/core/engine/reach/affected';
import type { EditProblem, Entry, Edit } from './types';
import { ask, type Answer, type Answers, type Need, rowSet } from '@/core/engine/driver/need';
import {
  type CellRef,
  emptyRow,
  recordKey,
  type RecordRef,
  type Row,
  rowWith,
} from '@/core/engine/driver/record';
import { readAll } from '@/core/engine/driver/read-all';

export interface Applied {
  readonly entries: ReadonlyMap<string, Entry>;
  readonly problems: readonly EditProblem[];
}

/**
 * The edited records as they stand and as they will, and with them what follows by link policies; nothing is written yet.
 *
 * | the parent is deleted, its child …      | refuse      | clear            | delete           |
 * | --------------------------------------- | ----------- | ---------------- | ---------------- |
 * | still names it at the end of the edits  | is refused  | loses the link   | goes too         |
 * | goes too, by whatever way               | –           | keeps the link   | –                |
 * | is moved elsewhere by the same edits    | –           | –                | –                |
 *
 * A restoration brings back what that deletion took along and is still in the bin with it, and links that it cleared where
 * they are still empty, their child is there, and nobody enters something else. A link with the policy *clear* whose
 * parent went into the bin meanwhile is cleared, as it would have been. None of it depends on the order of the edits.
 */
export function* applyEdits(model: Model, edits: readonly Edit[]): Generator<Need, Applied, Answer> {
  const applying = new Applying(model, edits);
  yield* applying.read();
  yield* applying.restore();
  yield* applying.delete();
  return { entries: applying.entries, problems: applying.problems };
}

const NO_CAUSES: ReadonlyMap<string, CellRef> = new Map();

const recordCause = ({ type, id }: RecordRef): CellRef => ({ type, id, field: '' });

export const titleOf = (model: Model, row: Row): string =>
  (row.values[typeIn(model, row.type).title] as string | null) ?? row.id;

class Applying {
  readonly entries = new Map<string, Entry>();
  readonly problems: EditProblem[] = [];

  constructor(
    private readonly model: Model,
    private readonly edits: readonly Edit[],
  ) {}

  *read(): Generator<Need, void, Answer> {
    const rows = yield* readAll(this.edits);
    for (const [index, edit] of this.edits.entries()) {
      const before = rows.get(recordKey(edit)) ?? null;
      const problem = standingProblem(this.model, edit, before);
      if (problem) this.problems.push({ ...problem, index });
      else this.entries.set(recordKey(edit), this.entryOf(edit, before, index));
    }
  }

  private entryOf(edit: Edit, before: Row | null, index: number): Entry {
    const { type, id, kind } = edit;
    const base = before ?? emptyRow(this.model, edit);
    const isDeleted = kind === 'delete';
    const fields = new Set<string>();
    let after: Row;
    if (edit.kind === 'delete' || edit.kind === 'restore') after = { ...base, deleted: isDeleted };
    else {
      const values = { ...base.values };
      for (const [field, value] of Object.entries(edit.values)) {
        if (!sameValue(values[field] ?? null, value ?? null)) fields.add(field);
        values[field] = value;
      }
      after = rowWith(base, values);
    }
    const deletedWith = isDeleted ? { type, id } : null;
    const entry = { type, id, kind, before, after, fields, index, causes: NO_CAUSES, deletedWith };
    return edit.kind === 'create' && edit.madeFor ? { ...entry, madeFor: edit.madeFor } : entry;
  }

  /** Whether the edits themselves say what a field holds, even where they leave it as it is. */
  private names(key: string, field: string): boolean {
    const entry = this.entries.get(key);
    const edit = entry && itemAt(this.edits, entry.index);
    if (!edit || recordKey(edit) !== key) return false;
    return (edit.kind === 'create' || edit.kind === 'edit') && field in edit.values;
  }

  *restore(): Generator<Need, void, Answer> {
    const roots = [...this.entries.values()].filter((entry) => entry.kind === 'restore');
    if (roots.length === 0) return;
    const indexOf = new Map(roots.map((root) => [recordKey(root), root.index]));
    const taken = yield* ask<'deletionMembers'>({ kind: 'deletionMembers', roots });
    const wanted = [...taken.records, ...taken.cleared];
    const rows = yield* readAll(wanted.filter((ref) => !this.entries.has(recordKey(ref))));
    const restored = new Map<string, number>(indexOf);
    for (const record of taken.records) {
      const key = recordKey(record);
      const row = rows.get(key);
      const index = valueAt(indexOf, recordKey(record.with));
      restored.set(key, index);
      if (!row?.deleted) continue;
      this.entries.set(key, {
        ...{ type: row.type, id: row.id, kind: 'restore', before: row, after: { ...row, deleted: false } },
        ...{ fields: new Set(), index, causes: new Map([['', recordCause(record.with)]]), deletedWith: null },
      });
    }
    for (const cell of taken.cleared) {
      const row = this.entries.get(recordKey(cell))?.after ?? rows.get(recordKey(cell));
      if (!row || row.deleted || row.values[cell.field] !== null || this.names(recordKey(cell), cell.field))
        continue;
      this.setLink(row, cell.field, cell.parent.id, cell.parent, valueAt(restored, recordKey(cell.parent)));
    }
    yield* this.clearGone();
  }

  /** Restored records whose parent went into the bin meanwhile lose the link, where that is the link's policy. */
  private *clearGone(): Generator<Need, void, Answer> {
    const named = [...this.entries.values()].flatMap((entry) =>
      entry.kind !== 'restore'
        ? []
        : this.model.linksFrom(entry.type).flatMap((link) => {
            const id = certain(entry.after).values[link.link];
            return link.policy === 'clear' && typeof id === 'string' ? [{ entry, link, id }] : [];
          }),
    );
    const parents = yield* readAll(named.map(({ link, id }) => ({ type: link.parent, id })));
    for (const { entry, link, id } of named) {
      const key = recordKey({ type: link.parent, id });
      const parent = this.entries.get(key)?.after ?? parents.get(key);
      if (!parent?.deleted) continue;
      this.setLink(
        certain(valueAt(this.entries, recordKey(entry)).after),
        link.link,
        null,
        parent,
        entry.index,
      );
    }
  }

  private setLink(row: Row, field: string, parent: string | null, because: RecordRef, index: number): void {
    const key = recordKey(row);
    const known = this.entries.get(key);
    this.entries.set(key, {
      ...{ type: row.type, id: row.id, kind: known?.kind ?? 'edit', index: known?.index ?? index },
      before: known ? known.before : row,
      after: rowWith(row, { ...row.values, [field]: parent }),
      fields: new Set([...(known?.fields ?? []), field]),
      causes: new Map([...(known?.causes ?? []), [field, recordCause(because)]]),
      deletedWith: known?.deletedWith ?? null,
    });
  }

  /** Goes down level by level from what is deleted; then clears and refuses what is left naming any of it. */
  *delete(): Generator<Need, void, Answer> {
    const left: Orphan[] = [];
    let level = [...this.entries.values()].filter((entry) => entry.kind === 'delete');
    while (level.length > 0) {
      const orphans = yield* this.orphansOf(level);
      level = [];
      // A record that two deletions reach at the same level goes with the first by key, whatever the order of the edits.
      for (const orphan of orphans.sort(byRoot)) {
        if (orphan.link.policy !== 'delete') left.push(orphan);
        else if (isThere(this.current(orphan.child))) level.push(this.takeAlong(orphan));
      }
    }
    for (const orphan of left) {
      const child = this.current(orphan.child);
      if (!isThere(child)) continue;
      if (orphan.link.policy === 'clear')
        this.setLink(child, orphan.link.link, null, orphan.parent, orphan.parent.index);
    }
    this.refuse(
      left.filter((orphan) => orphan.link.policy === 'refuse' && isThere(this.current(orphan.child))),
    );
  }

  private current(row: Row): Row | null {
    const entry = this.entries.get(recordKey(row));
    return entry ? entry.after : row;
  }

  private takeAlong({ child, parent }: Orphan): Entry {
    const key = recordKey(child);
    const known = this.entries.get(key);
    const entry: Entry = {
      ...{ type: child.type, id: child.id, kind: 'delete', index: known?.index ?? parent.index },
      ...{ before: known ? known.before : child, after: { ...certain(this.current(child)), deleted: true } },
      fields: known?.fields ?? new Set(),
      causes: new Map([...(known?.causes ?? []), ['', recordCause(parent)]]),
      deletedWith: parent.deletedWith,
    };
    this.entries.set(key, entry);
    return entry;
  }

  /** Children that name one of these records, as the edits leave them. */
  private *orphansOf(parents: readonly Entry[]): Generator<Need, Orphan[], Answer> {
    const found: Orphan[] = [];
    for (const type of new Set(parents.map((parent) => parent.type))) {
      const ofType = new Map(parents.filter((parent) => parent.type === type).map((one) => [one.id, one]));
      for (const link of this.model.linksTo(type)) {
        const { set }: Answers['related'] = yield* ask<'related'>({
          kind: 'related',
          parents: rowSet(type, ofType.keys()),
          link,
        });
        const rows = yield* readAll(set.ids.map((id) => ({ type: link.type, id })));
        for (const row of rows.values()) {
          const child = this.current(row);
          const parent = child && ofType.get(child.values[link.link] as string);
          if (isThere(child) && parent) found.push({ link, child: row, parent });
        }
      }
    }
    return found;
  }

  private refuse(orphans: readonly Orphan[]): void {
    const groups = grouped(orphans, ({ parent, link }) => `${recordKey(parent)} ${link.type}.${link.link}`);
    for (const group of groups.values()) {
      const [{ parent, link }] = group as [Orphan];
      const child = typeIn(this.model, link.type);
      const title = titleOf(this.model, certain(parent.before));
      const isRoot = recordKey(certain(parent.deletedWith)) === recordKey(parent);
      const what = isRoot ? `“${title}” can’t be deleted` : `“${title}” would go too, and can’t`;
      const message = `${what}: ${group.length} ${group.length === 1 ? `${child.name} still names` : `${child.plural} still name`} it as ${link.field.name}. Move or delete them first.`;
      this.problems.push({
        ...{ code: 'delete.children', message, place: 'id', index: parent.index },
        data: { type: link.type, count: group.length },
      });
    }
  }
}

/** A child whose parent is deleted. */
interface Orphan {
  readonly link: Link;
  readonly child: Row;
  readonly parent: Entry;
}

const byRoot = (a: Orphan, b: Orphan): number =>
  compareText(recordKey(certain(a.parent.deletedWith)), recordKey(certain(b.parent.deletedWith))) ||
  compareText(recordKey(a.parent), recordKey(b.parent)) ||
  compareText(recordKey(a.child), recordKey(b.child)) ||
  compareText(a.link.link, b.link.link);

type Standing = Omit<EditProblem, 'index'>;

/** Why an edit doesn't fit its record as it stands, if it doesn't. */
function standingProblem(model: Model, edit: Edit, before: Row | null): Standing | null {
  const { name } = typeIn(model, edit.type);
  if (edit.kind === 'create') {
    const message = `There is ${article(name)} ${name} with this id already. Edit it, or leave the id out.`;
    return before ? { code: 'edit.exists', message, place: 'id' } : null;
  }
  if (!before) {
    const message = `There is no such ${name}. Reload the list; it may have been another type.`;
    return { code: 'edit.gone', message, place: 'id' };
  }
  if (edit.kind === 'restore' && !before.deleted) {
    const message = `${name} “${titleOf(model, before)}” isn’t in the bin: it is there already. Reload to see it.`;
    return { code: 'restore.there', message, place: 'id' };
  }
  if (edit.kind !== 'restore' && before.deleted) {
    const message = `${name} “${titleOf(model, before)}” has been deleted. Restore it from the bin first, or reload to see what is there now.`;
    return { code: 'edit.deleted', message, place: 'id' };
  }
  if (edit.version !== undefined && edit.version !== before.version) {
    const message = `“${titleOf(model, before)}” was changed by somebody else: you saw version ${edit.version}, it is now at ${before.version}. Look at how it stands now, and make your change on that.`;
    return {
      ...{ code: 'edit.version', message, place: 'version' },
      data: { seen: edit.version, current: before.version },
    };
  }
  return null;
}

import { valueAt } from '@/core/values';
import type { Link, LinkRef, Model } from '@/core/model';
import { Columns } from './columns';
import { WriteLog } from './write-log';
import { recordKey, type Row } from './record';

/** Records by key, with the children of each link. What isn't loaded is told apart from what doesn't exist. */
export interface RecordStore {
  /** The record, deleted or not; `undefined` when it isn't here. */
  row(type: string, id: string): Row | undefined;
  rows(type: string): Iterable<Row>;
  /** Ids of records, not deleted, whose link names the parent; and the records themselves. */
  children(link: LinkRef, parent: string): Iterable<string>;
  childRows(link: LinkRef, parent: string): readonly Row[];
  /** Whether all the children that exist are here. */
  hasAllChildren(link: LinkRef, parent: string): boolean;
  /** Whether a record that isn't here doesn't exist. */
  readonly isWhole: boolean;
  /** Whether all records of a type are here. */
  hasAll(type: string): boolean;
  put(row: Row): void;
  /**
   * Columns of a link's children as they stand beneath any pending rows; `null` where, for so few targets, their rows are
   * quicker.
   */
  columns(link: Link, targets: number): Columns | null;
  /** Parents of whose children some are pending: for them the columns aren't right. */
  stirred(link: LinkRef): ReadonlySet<string>;
  /** What is kept of writes beside the rows. */
  readonly notes: WriteLog;
  /** The records as they stand beneath any pending rows; `null` where none are pending. */
  readonly beneath: RecordStore | null;
  /** Another number whenever a record of the type was put. */
  revision(type: string): number;
  /** Of a store that isn't whole: the day from which on all rates are here; `null` where they aren't. */
  readonly ratesSince: string | null;
}

const linkKey = ({ type, link }: LinkRef, parent: string): string => `${type}.${link} ${parent}`;

/** Children of each parent over each link, with their rows, kept up to date as rows are put. */
class ChildIndex {
  readonly #children = new Map<string, Map<string, Row>>();

  constructor(private readonly model: Model) {}

  put(before: Row | undefined, after: Row): void {
    for (const link of this.model.linksFrom(after.type)) {
      const old = before && !before.deleted ? before.values[link.link] : null;
      const now = after.deleted ? null : after.values[link.link];
      if (typeof old === 'string' && old !== now) this.#children.get(linkKey(link, old))?.delete(after.id);
      if (typeof now !== 'string') continue;
      const key = linkKey(link, now);
      let children = this.#children.get(key);
      if (!children) this.#children.set(key, (children = new Map<string, Row>()));
      children.set(after.id, after);
    }
  }

  of(link: LinkRef, parent: string): ReadonlyMap<string, Row> {
    return this.#children.get(linkKey(link, parent)) ?? NO_CHILDREN;
  }
}

const NO_CHILDREN: ReadonlyMap<string, Row> = new Map();

const NOT_STIRRED: ReadonlySet<string> = new Set();
/** Columns go over all children, so they are for targets that are a good part of all parents, and not just a few. */
const FEWEST_TARGETS = 16;
const LEAST_PART = 1 / 8;

/**
 * Records in memory: all of them (`isWhole`), or a family, for which it is told whose children are all here.
 */
export class MemoryStore implements RecordStore {
  readonly #rows = new Map<string, Map<string, Row>>();
  readonly #complete = new Set<string>();
  readonly #all = new Set<string>();
  readonly #children: ChildIndex;
  readonly #columns = new Map<string, Columns>();
  readonly #revisions = new Map<string, number>();
  readonly notes = new WriteLog();
  readonly beneath = null;
  ratesSince: string | null = null;

  constructor(
    readonly model: Model,
    readonly isWhole: boolean,
    /** From how many targets on rules are worked out over columns. */
    private readonly fewestTargets = FEWEST_TARGETS,
  ) {
    this.#children = new ChildIndex(model);
  }

  row(type: string, id: string): Row | undefined {
    return this.#rows.get(type)?.get(id);
  }

  rows(type: string): Iterable<Row> {
    return this.#rows.get(type)?.values() ?? [];
  }

  children(link: LinkRef, parent: string): Iterable<string> {
    return this.#children.of(link, parent).keys();
  }

  childRows(link: LinkRef, parent: string): readonly Row[] {
    return [...this.#children.of(link, parent).values()];
  }

  hasAllChildren(link: LinkRef, parent: string): boolean {
    return this.isWhole || this.#complete.has(linkKey(link, parent));
  }

  hasAll(type: string): boolean {
    return this.isWhole || this.#all.has(type);
  }

  markAll(type: string): void {
    this.#all.add(type);
  }

  markComplete(link: LinkRef, parent: string): void {
    this.#complete.add(linkKey(link, parent));
  }

  put(row: Row): void {
    if (!this.#rows.has(row.type)) this.#rows.set(row.type, new Map());
    const rows = valueAt(this.#rows, row.type);
    this.#children.put(rows.get(row.id), row);
    rows.set(row.id, row);
    this.#revisions.set(row.type, this.revision(row.type) + 1);
    this.#columns.get(row.type)?.put(row);
  }

  revision(type: string): number {
    return this.#revisions.get(type) ?? 0;
  }

  columns({ type, parent }: Link, targets: number): Columns | null {
    const parents = this.#rows.get(parent)?.size ?? 0;
    if (targets < this.fewestTargets || targets < parents * LEAST_PART) return null;
    let columns = this.#columns.get(type);
    if (!columns) this.#columns.set(type, (columns = new Columns(this.rows(type))));
    return columns;
  }

  stirred(): ReadonlySet<string> {
    return NOT_STIRRED;
  }
}

/** Pending rows over a store that stays as it is: what a rehearsal writes into. */
export class Overlay implements RecordStore {
  /** By type, then by id. */
  readonly #own = new Map<string, Map<string, Row>>();
  readonly #created = new Set<string>();
  /** How often a row of each type was put. */
  readonly #puts = new Map<string, number>();
  readonly #children: ChildIndex;
  readonly notes: WriteLog;
  readonly beneath: RecordStore;

  constructor(
    private readonly model: Model,
    private readonly base: RecordStore,
  ) {
    this.beneath = base;
    this.#children = new ChildIndex(model);
    this.notes = new WriteLog(base.notes);
  }

  get isWhole(): boolean {
    return this.base.isWhole;
  }

  get ratesSince(): string | null {
    return this.base.ratesSince;
  }

  revision(type: string): number {
    return this.base.revision(type) + (this.#puts.get(type) ?? 0);
  }

  row(type: string, id: string): Row | undefined {
    return this.#own.get(type)?.get(id) ?? this.base.row(type, id);
  }

  rows(type: string): Iterable<Row> {
    const own = this.#own.get(type);
    return own ? this.rowsWith(type, own) : this.base.rows(type);
  }

  private *rowsWith(type: string, own: ReadonlyMap<string, Row>): Iterable<Row> {
    for (const row of this.base.rows(type)) if (!own.has(row.id)) yield row;
    yield* own.values();
  }

  *children(link: LinkRef, parent: string): Iterable<string> {
    const own = this.#own.get(link.type);
    for (const id of this.base.children(link, parent)) if (!own?.has(id)) yield id;
    yield* this.#children.of(link, parent).keys();
  }

  childRows(link: LinkRef, parent: string): readonly Row[] {
    const beneath = this.base.childRows(link, parent);
    const own = this.#own.get(link.type);
    if (!own) return beneath;
    const kept = beneath.filter(({ id }) => !own.has(id));
    return [...kept, ...this.#children.of(link, parent).values()];
  }

  hasAllChildren(link: LinkRef, parent: string): boolean {
    return this.#created.has(parent) || this.base.hasAllChildren(link, parent);
  }

  hasAll(type: string): boolean {
    return this.base.hasAll(type);
  }

  put(row: Row): void {
    const { type, id } = row;
    let own = this.#own.get(type);
    if (!own) this.#own.set(type, (own = new Map<string, Row>()));
    if (!this.row(type, id)) this.#created.add(id);
    this.#puts.set(type, (this.#puts.get(type) ?? 0) + 1);
    this.#children.put(own.get(id), row);
    own.set(id, row);
  }

  columns(link: Link, targets: number): Columns | null {
    return this.base.columns(link, targets);
  }

  stirred(link: LinkRef): ReadonlySet<string> {
    const stirred = new Set(this.base.stirred(link));
    for (const row of this.#own.get(link.type)?.values() ?? [])
      for (const parent of [row.values[link.link], this.base.row(row.type, row.id)?.values[link.link]])
        if (typeof parent === 'string') stirred.add(parent);
    return stirred;
  }

  /** The rows that are pending here. */
  *pending(): Iterable<Row> {
    for (const rows of this.#own.values()) yield* rows.values();
  }

  /** Hands the pending rows over to the store beneath. */
  commit(): void {
    for (const row of this.pending()) this.base.put(row);
    for (const write of this.notes.writes()) this.base.notes.note(write);
  }
}

/** The rows that were put into a store over another that lies beneath it, each as it is now, in the order in which they came first. */
export function pendingOver(store: RecordStore, base: RecordStore): Row[] {
  const layers: Overlay[] = [];
  for (let at: RecordStore | null = store; at !== base; at = at.beneath) {
    if (!(at instanceof Overlay)) throw new RangeError('The store doesn’t lie over the other');
    layers.unshift(at);
  }
  const rows = new Map<string, Row>();
  for (const layer of layers) for (const row of layer.pending()) rows.set(recordKey(row), row);
  return [...rows.values()];
}

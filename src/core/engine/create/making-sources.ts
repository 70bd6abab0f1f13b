import { evaluatorOf, Failure, fieldsRead, OUTSIDE, type Outside, type Typed } from '@/core/expression';
import { assignedReads } from '@/core/rules';
import { compareText } from '@/core/values';
import { affectedTargets, causesInOrder, isThere } from '@/core/engine/reach/affected';
import type { Touched } from '@/core/engine/driver/record';
import { ask, type Answer, type Made, type Need } from '@/core/engine/driver/need';
import { type CellRef, recordKey, type RecordRef, type Row } from '@/core/engine/driver/record';
import type { WritePrecedence } from '@/core/engine/edits/write-precedence';
import { type RowsOf, RouteReader } from '@/core/engine/reach/route-reader';
import { isInTouch, type Making, type MakingInput } from './making';

/** A record for which others are made, as it is and was. */
export interface Source {
  readonly row: Row;
  /** As it was before the run; `null` where it wasn't there. */
  readonly before: Row | null;
  readonly causes: readonly CellRef[];
  readonly meets: boolean;
  readonly met: boolean;
  readonly isAsked: boolean;
}

/** Brings together whose turn it may be, and what was made for them. */
export abstract class MakingSources {
  readonly made: Making = {
    ...{ makes: [], writes: [], moves: [], proposals: [], withdrawn: [], overruled: [], outside: [] },
    ...{ failed: null, claimed: null },
  };
  protected readonly now: RouteReader;
  protected readonly was: RouteReader;
  #leaving: Set<string> | null = null;

  constructor(
    protected readonly input: MakingInput,
    protected readonly writePrecedence: Pick<WritePrecedence, 'isEntered' | 'isRestored'>,
  ) {
    this.now = new RouteReader(input.model, input.rowsOf);
    this.was = new RouteReader(input.model, asBefore(input));
  }

  /** Whether what was made for a record must be looked at: not where another is made each time, and none followed. */
  protected isLookedAt(id: string, sources: readonly Source[]): boolean {
    const { rule } = this.input;
    if (isInTouch(rule) || rule.definition.each === 'once') return true;
    this.#leaving ??= new Set(sources.flatMap(({ row, met, meets }) => (met && !meets ? [row.id] : [])));
    return this.#leaving.has(id);
  }

  /** The records whose turn it may be, with whether they meet the condition now and did before; in one order. */
  protected *sources(): Generator<Need, Source[], Answer> {
    const { rule, model, touched, asked, turned } = this.input;
    const { type } = rule.writes;
    const { targets } = yield* affectedTargets(model, rule, touched);
    const causes = new Map<string, readonly CellRef[]>(targets);
    for (const entry of touched.values())
      if (entry.type === type && isThere(entry.before) && !isThere(entry.after))
        causes.set(entry.id, [{ type, id: entry.id, field: '' }]);
    const order = editOrder(touched, type, causes);
    const ids = [...new Set([...causes.keys(), ...asked, ...(turned?.ids ?? [])])].sort(
      (a, b) => order(a) - order(b) || compareText(a, b),
    );
    return yield* this.sourcesOf(ids, causes, new Set(asked));
  }

  protected *sourcesOf(
    ids: readonly string[],
    causes: ReadonlyMap<string, readonly CellRef[]>,
    asked: ReadonlySet<string>,
  ): Generator<Need, Source[], Answer> {
    const { rule, touched, rowsOf, turned } = this.input;
    const { type } = rule.writes;
    const where = turned ? turned.from.where : rule.where;
    const rows = yield* rowsOf(type, ids);
    const pairs = ids.flatMap((id) => {
      const row = rows.get(id);
      const entry = touched.get(recordKey({ type, id }));
      const before = entry ? entry.before : row;
      return row ? [{ row, before: before && isThere(before) ? before : null }] : [];
    });
    const read = [
      ...[rule.where, where].flatMap((node) => (node ? fieldsRead(node) : [])),
      ...assignedReads(rule.assigned),
    ];
    yield* this.now.load(
      pairs.map(({ row }) => row),
      read,
    );
    yield* this.was.load(
      pairs.flatMap(({ before }) => before ?? []),
      read,
    );
    return pairs.flatMap(({ row, before }): Source[] => {
      const met = before ? verdict(where, before, this.was) : false;
      const meets = row.deleted ? false : verdict(rule.where, row, this.now);
      if (meets === OUTSIDE || met === OUTSIDE) {
        this.made.outside.push(row.id);
        return [];
      }
      // An error counts where it is new.
      if (meets instanceof Failure && !(met instanceof Failure)) this.made.failed ??= row.id;
      if (meets instanceof Failure) return [];
      return [
        {
          ...{ row, before, meets, met: met === true, isAsked: asked.has(row.id) },
          causes: causesInOrder([...(causes.get(row.id) ?? [])]),
        },
      ];
    });
  }

  /** Records of the made type that the run changed in fields that the rule assigns. */
  protected editedOnes(): Touched[] {
    const { rule, touched } = this.input;
    return [...touched.values()].filter(
      ({ type, before, after, fields }) =>
        type === rule.makes &&
        isThere(before) &&
        isThere(after) &&
        rule.assigned.some(({ target }) => fields.has(target.key)),
    );
  }

  protected *known(sources: readonly Source[], edited: readonly Touched[]): Generator<Need, Made[], Answer> {
    const { rule } = this.input;
    const known = new Map<string, Made>();
    const add = (more: readonly Made[]) => {
      for (const one of more) known.set(one.made, one);
    };
    const ids = sources.flatMap(({ row }) => (this.isLookedAt(row.id, sources) ? [row.id] : []));
    if (ids.length > 0) add(yield* ask<'made'>({ kind: 'made', rule, by: 'source', ids }));
    const made = edited.map(({ id }) => id).filter((id) => !known.has(id));
    if (made.length > 0) add(yield* ask<'made'>({ kind: 'made', rule, by: 'made', ids: made }));
    return [...known.values()].sort((a, b) => compareText(a.made, b.made));
  }

  /** The records for which those were made that a person changed, where nothing else brought them in. */
  protected *othersOf(known: readonly Made[], sources: readonly Source[]): Generator<Need, Source[], Answer> {
    const seen = new Set(sources.map(({ row }) => row.id));
    const ids = [...new Set(known.map(({ source }) => source))]
      .filter((id) => !seen.has(id))
      .sort(compareText);
    if (ids.length === 0) return [];
    return yield* this.sourcesOf(ids, new Map(), new Set());
  }
}

/** Whether a record meets a condition; without one it does. */
export const verdict = (node: Typed | null, row: Row, reader: RouteReader): boolean | Outside | Failure =>
  node === null ? true : (evaluatorOf(node)(row, reader.read) as boolean | Outside | Failure);

/** Records as they were before the run. */
const asBefore = ({ touched, rowsOf }: Pick<MakingInput, 'touched' | 'rowsOf'>): RowsOf =>
  function* (type, ids) {
    const wanted = [...ids];
    const unknown = wanted.filter((id) => !touched.has(recordKey({ type, id })));
    const rows = new Map(unknown.length > 0 ? yield* rowsOf(type, unknown) : []);
    for (const id of wanted) {
      const before = touched.get(recordKey({ type, id }))?.before;
      if (before) rows.set(id, before);
    }
    return rows;
  };

/**
 * The place of the edit from which each record's turn comes, so that serial numbers follow the edits: its own, else the first of those that it follows
 * from. Where there is none it comes last, by its id.
 */
function editOrder(
  touched: ReadonlyMap<string, Touched>,
  type: string,
  causes: ReadonlyMap<string, readonly CellRef[]>,
): (id: string) => number {
  const indexOf = (ref: RecordRef) => touched.get(recordKey(ref))?.index ?? LAST;
  return (id) => {
    const own = indexOf({ type, id });
    return own !== LAST ? own : Math.min(LAST, ...(causes.get(id) ?? []).map(indexOf));
  };
}

const LAST = Number.MAX_SAFE_INTEGER;

import { Failure, OUTSIDE, type Outside, type ReadOf, type TypedField } from '@/core/expression';
import { type Model, typeUp } from '@/core/model';
import type { Answer, Need } from '@/core/engine/driver/need';
import { heldIn, recordKey, type Row } from '@/core/engine/driver/record';

/** Records as they stand in a run; asks for those that it doesn't know. */
export type RowsOf = (type: string, ids: Iterable<string>) => Generator<Need, Map<string, Row>, Answer>;

/**
 * Reads fields up the links of records in the engine itself: what lies on the ways is asked for first, all of a step at once. An empty link,
 * or one to a deleted record, reads as empty.
 */
export class RouteReader {
  readonly #rows = new Map<string, Row>();
  readonly #asked = new Set<string>();

  constructor(
    private readonly model: Model,
    private readonly rowsOf: RowsOf,
    /** Whether a record that isn't there doesn't exist, rather than lying outside. */
    private readonly isOutside: (type: string, id: string) => boolean = () => false,
    /** Is told of each record on a way up. */
    private readonly seen: (row: Row) => void = () => undefined,
  ) {}

  /** Asks for all that fields are read from, up from these records. */
  *load(rows: readonly Row[], fields: readonly TypedField[]): Generator<Need, void, Answer> {
    for (const { from, route } of fields) {
      let at: readonly Row[] = rows;
      for (const [step, link] of route.entries()) {
        const type = typeUp(this.model, from, route.slice(0, step + 1));
        const ids = new Set(at.map((row) => row.values[link]).filter((id) => typeof id === 'string'));
        at = yield* this.rowsAt(type, ids);
      }
    }
  }

  private *rowsAt(type: string, ids: ReadonlySet<string>): Generator<Need, Row[], Answer> {
    const wanted = [...ids].filter((id) => !this.#asked.has(recordKey({ type, id })));
    for (const id of wanted) this.#asked.add(recordKey({ type, id }));
    if (wanted.length > 0)
      for (const row of (yield* this.rowsOf(type, wanted)).values()) {
        this.#rows.set(recordKey(row), row);
        this.seen(row);
      }
    return [...ids].flatMap((id) => this.#rows.get(recordKey({ type, id })) ?? []);
  }

  /** The value of a field on a record or up its links, once it was loaded; a value in error says so. */
  readonly read: ReadOf<Row> = (row, { from, route, field }) => {
    let at: Row | Outside | null = row;
    for (const [step, link] of route.entries()) {
      const id: unknown = at.values[link];
      if (typeof id !== 'string') return null;
      at = this.rowAt(typeUp(this.model, from, route.slice(0, step + 1)), id);
      if (at === OUTSIDE || at === null) return at;
    }
    return at.errors[field] === undefined ? heldIn(at, field) : Failure.of('input_has_problem');
  };

  private rowAt(type: string, id: string): Row | Outside | null {
    const row = this.#rows.get(recordKey({ type, id }));
    if (row) return row.deleted ? null : row;
    return this.isOutside(type, id) ? OUTSIDE : null;
  }
}

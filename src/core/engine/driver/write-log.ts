import type { Accumulator, CompiledRule } from '@/core/rules';
import type { Made, DeletionMembers, Write } from './need';
import { recordKey, type RecordRef } from './record';

type Noted = Pick<
  Write,
  'type' | 'id' | 'kind' | 'changes' | 'deletedWith' | 'accumulators' | 'rows' | 'madeFor'
> & {
  /** What was written in one run has the same number. */
  readonly run?: number;
};

/** With what a record went into the bin, and in which run. */
interface Gone {
  readonly by: RecordRef | null;
  readonly run: number;
}

let runs = 0;

/** A link that a run emptied because of a record that isn't there. */
type Cleared = DeletionMembers['cleared'][number] & { readonly run: number };

/**
 * What stores in memory keep of writes beside their rows: what deletions took along, and what values are made of. An
 * overlay's looks into its own first, then into that of the store beneath.
 */
export class WriteLog {
  readonly #writes: Noted[] = [];
  readonly #gone = new Map<string, Gone | null>();
  readonly #run = (runs += 1);
  readonly #cleared = new Map<string, Cleared>();
  /** By rule and field, then by target. */
  readonly #accumulators = new Map<string, Map<string, Accumulator>>();
  /** Rows of maps that rules which react are at: by rule and target. */
  readonly #rows = new Map<string, number>();
  /** What rules made for which records: by rule. */
  readonly #made = new Map<
    string,
    { readonly source: string; readonly made: string; readonly type: string }[]
  >();

  constructor(private readonly beneath?: WriteLog) {}

  note(write: Noted): void {
    const { run = this.#run } = write;
    this.#writes.push({ ...write, run });
    const key = recordKey(write);
    if (write.kind === 'delete') this.#gone.set(key, { by: write.deletedWith ?? null, run });
    if (write.kind === 'restore') this.#gone.set(key, null);
    for (const { type, id, field, after, rule, causes } of write.changes) {
      const [cause] = causes;
      if (rule === null && after === null && cause?.field === '')
        this.#cleared.set(`${key} ${field}`, {
          type,
          id,
          field,
          parent: { type: cause.type, id: cause.id },
          run,
        });
    }
    for (const { rule, field, accumulator } of write.accumulators ?? [])
      this.ofPart(`${rule} ${field}`).set(write.id, accumulator);
    if (write.madeFor) this.noteMade(write.madeFor.rule, write.madeFor.source, write);
    for (const { rule, row } of write.rows ?? []) this.#rows.set(`${rule} ${write.id}`, row);
  }

  /** A rule made a record for another. */
  noteMade(rule: string, source: string, { type, id }: RecordRef, isTakenBack = false): void {
    this.#made.set(rule, [...(this.#made.get(rule) ?? []), { source, made: id, type }]);
    if (isTakenBack)
      this.#gone.set(recordKey({ type, id }), { by: { type: '', id: source }, run: this.#run });
  }

  /** What a rule made, as far as it is known. */
  made(rule: string, by: 'source' | 'made', ids: readonly string[]): Made[] {
    const wanted = new Set(ids);
    const gone = this.gone();
    return this.allMade(rule)
      .filter((one) => wanted.has(one[by]))
      .map(({ source, made, type }) => ({
        ...{ source, made },
        isTakenBack: gone.get(recordKey({ type, id: made }))?.by?.id === source,
      }));
  }

  private allMade(rule: string): readonly { source: string; made: string; type: string }[] {
    return [...(this.beneath?.allMade(rule) ?? []), ...(this.#made.get(rule) ?? [])];
  }

  private ofPart(part: string): Map<string, Accumulator> {
    let of = this.#accumulators.get(part);
    if (!of) this.#accumulators.set(part, (of = new Map<string, Accumulator>()));
    return of;
  }

  private gone(): Map<string, Gone | null> {
    return new Map([...(this.beneath?.gone() ?? []), ...this.#gone]);
  }

  private cleared(): Map<string, Cleared> {
    return new Map([...(this.beneath?.cleared() ?? []), ...this.#cleared]);
  }

  /** What is kept of a rule beside one of its targets; `undefined` where it isn't known. */
  accumulator(rule: CompiledRule, target: string): Accumulator | undefined {
    return this.accumulators(rule)(target);
  }

  /** The same for many targets of one rule. */
  accumulators(rule: CompiledRule): (target: string) => Accumulator | undefined {
    const own = this.#accumulators.get(`${rule.id} ${rule.writes.field}`);
    const beneath = this.beneath?.accumulators(rule);
    if (!own) return beneath ?? NOTHING_KEPT;
    return beneath ? (target) => own.get(target) ?? beneath(target) : (target) => own.get(target);
  }

  /** The row of its map that a rule was at for a target; `undefined` where it isn't known. */
  row(rule: string, target: string): number | undefined {
    return this.#rows.get(`${rule} ${target}`) ?? this.beneath?.row(rule, target);
  }

  /** What the deletion of each of these records took along: in the same run. */
  deletionMembers(roots: readonly RecordRef[]): DeletionMembers {
    const wanted = new Set(roots.map(recordKey));
    const gone = this.gone();
    const records = [...gone].flatMap(([key, one]) => {
      const by = one?.by;
      if (!by || !wanted.has(recordKey(by)) || key === recordKey(by)) return [];
      const [type, id] = key.split(' ') as [string, string];
      return gone.get(recordKey(by))?.run === one.run ? [{ type, id, with: by }] : [];
    });
    const back = new Set([...wanted, ...records.map(recordKey)]);
    // What is emptied as it comes out of the bin, since its parent lies there by now, isn't what that one's deletion emptied.
    const cleared = [...this.cleared().values()].filter(
      ({ parent, run }) => back.has(recordKey(parent)) && gone.get(recordKey(parent))?.run === run,
    );
    return { records, cleared };
  }

  writes(): readonly Noted[] {
    return this.#writes;
  }
}

const NOTHING_KEPT = () => undefined;

import { competeForField, type CompiledRule, isReacting, precedenceOf, writtenAt } from '@/core/rules';
import { compareText, isError, type Value, valueAt } from '@/core/values';
import type { Edit } from '@/core/engine/edits/types';
import type { WorkedOut } from '@/core/engine/driver/need';
import { cellKey, type CellRef, recordKey, type RecordRef, sameOutcome } from '@/core/engine/driver/record';
import type { Overruled } from '@/core/engine/driver/ripple';

/** Why a run is undone in which a rule that reacts can't tell what to do. */
export const reactionFails = (rule: Pick<CompiledRule, 'name'>, title: string): string =>
  `“${rule.name}” can’t tell what to do on “${title}”: something that it reads has a problem. Clear that first, or pause the rule.`;

/** Of records on which one can't, the one that is told: the first by its id, however many they are and in whatever order they were come by. */
export const firstFailed = (known: string | null, id: string): string =>
  known === null || compareText(id, known) < 0 ? id : known;

/**
 * What keeps rules that react from acting in a run: what a person entered stands, and coming back from the bin isn't a change. What their
 * results are now is kept all the same.
 */
export class WritePrecedence {
  readonly overruled: Overruled[] = [];
  readonly #entered = new Set<string>();
  readonly #restored = new Set<string>();
  readonly #assigned = new Set<string>();
  /** Which rule that reacts wrote a field in this run, or found its value there. */
  readonly #writers = new Map<string, CompiledRule>();

  constructor(
    private readonly edits: readonly Edit[],
    /** Rules that don't act at all. */
    readonly isSuppressed: (rule: string) => boolean,
  ) {
    for (const edit of edits) {
      if (edit.kind !== 'create' && edit.kind !== 'edit') continue;
      const defaults = edit.kind === 'create' ? (edit.defaults ?? []) : [];
      for (const field of Object.keys(edit.values))
        if (!defaults.includes(field)) this.#entered.add(cellKey({ ...edit, field }));
    }
  }

  /** Whether a person entered the field in this run; a default isn't entered. */
  isEntered(cell: CellRef): boolean {
    return this.#entered.has(cellKey(cell));
  }

  /** A rule that makes records gave a new one its values: they stand against what others cascade. */
  assigned({ type, id }: RecordRef, fields: readonly string[]): void {
    for (const field of fields) this.#assigned.add(cellKey({ type, id, field }));
  }

  /** Whether the field was entered in this run, or assigned to a record that was made in it, or a rule that comes first has written it. */
  isTaken(cell: CellRef, rule: CompiledRule): boolean {
    return this.isEntered(cell) || this.#assigned.has(cellKey(cell)) || this.isOutranked(cell, rule);
  }

  private isOutranked(cell: CellRef, rule: CompiledRule): boolean {
    const writer = this.#writers.get(cellKey(cell));
    if (writer === undefined || !competeForField(writer, rule)) return false;
    // In a circle one that comes first may write over another.
    return precedenceOf(writer) <= precedenceOf(rule);
  }

  /** What a rule would have written, where something is taken. */
  overruledBy(rule: CompiledRule, cell: CellRef, value: Value): Overruled {
    const isByRule = !this.isEntered(cell) && this.isOutranked(cell, rule);
    const by = isByRule ? { by: valueAt(this.#writers, cellKey(cell)).id } : {};
    return { ...cell, rule: rule.id, value, ...by };
  }

  /** What a rule that keeps its field overrules among those that cascade to it; told anew where it is worked out again. */
  overrules({ id: rule, writes: { field } }: CompiledRule, found: readonly Overruled[]): void {
    const isOfIt = (one: Overruled) => one.rule === rule && one.by === rule && one.field === field;
    const others = this.overruled.filter((one) => !isOfIt(one));
    this.overruled.splice(0, this.overruled.length, ...others, ...found);
  }

  /** A rule that reacts gives the field its value, which it may have already: those that come after it give way. */
  writes(rule: CompiledRule, id: string): void {
    this.#writers.set(cellKey({ ...rule.writes, id }), rule);
  }

  /** Ids of the records on which what a rule would write is taken. */
  takenIn(rule: CompiledRule): string[] {
    const outranked = [...this.#writers.keys()].flatMap((key) => {
      const [type, id, field] = key.split(' ') as [string, string, string];
      const isIts = type === rule.writes.type && field === rule.writes.field;
      return isIts && this.isOutranked({ type, id, field }, rule) ? [id] : [];
    });
    return [...this.enteredIn(rule.writes), ...outranked];
  }

  /** Ids of the records on which a person entered a field in this run. */
  enteredIn({ type, field }: Pick<CellRef, 'type' | 'field'>): string[] {
    return this.edits
      .filter((edit) => edit.type === type && this.isEntered({ type, id: edit.id, field }))
      .map(({ id }) => id);
  }

  /** Whether a record came back in this run. */
  isRestored(ref: Pick<CellRef, 'type' | 'id'>): boolean {
    return this.#restored.has(recordKey(ref));
  }

  /** Place of the edit of a record among those of the run; the first where it has none. */
  editOf(ref: Pick<CellRef, 'type' | 'id'>): number {
    return Math.max(
      0,
      this.edits.findIndex((edit) => recordKey(edit) === recordKey(ref)),
    );
  }

  /** A record that came back, itself or along with another. */
  restored(ref: Pick<CellRef, 'type' | 'id'>): void {
    this.#restored.add(recordKey(ref));
  }

  /** What of it is written: of rules that keep their target all, of those that react what nothing keeps them from. */
  held(worked: WorkedOut): WorkedOut {
    const { id, rule, before, after, row } = worked;
    if (row === undefined) return worked;
    const cell = { ...rule.writes, id };
    const still = { ...worked, after: before };
    if (this.isSuppressed(rule.id) || this.isRestored(cell)) return still;
    const isWriting = isReacting(rule) && writtenAt(rule.map, rule.whenNone, row) !== undefined;
    if (sameOutcome(before, after)) {
      if (isWriting && !this.isTaken(cell, rule)) this.writes(rule, id);
      return worked;
    }
    if (isError(after)) return worked;
    if (!this.isEntered(cell) && !this.isOutranked(cell, rule)) {
      this.writes(rule, id);
      return worked;
    }
    this.overruled.push(this.overruledBy(rule, cell, after.value));
    return still;
  }
}

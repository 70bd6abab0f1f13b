import { type CompiledRule, isReacting, writtenAt } from '@/core/rules';
import { sameValue } from '@/core/values';
import { type Write } from '@/core/engine/driver/need';
import { type Row } from '@/core/engine/driver/record';

/** Which row of their tables holds for roll-ups that react in a circle, and what they wrote; kept once the circle has settled. */
export class LastRows {
  readonly #rows = new Map<
    string,
    { readonly rule: CompiledRule; readonly id: string; readonly row: number }
  >();

  set(rule: CompiledRule, id: string, row: number): void {
    this.#rows.set(keyOf(rule, id), { rule, id, row });
  }

  /** It is as it was before the run. */
  forget(rule: CompiledRule, id: string): void {
    this.#rows.delete(keyOf(rule, id));
  }

  writes(): Write[] {
    return [...this.#rows.values()].map(({ rule, id, row }) => ({
      ...{ kind: 'edit', type: rule.writes.type, id, wave: 1, changes: [], events: [] },
      rows: [{ rule: rule.id, field: rule.writes.field, row }],
    }));
  }

  /** Whether a record still has what its rule asks for now. */
  stands(rule: CompiledRule, id: string, now: Row | null | undefined): boolean {
    const last = this.#rows.get(keyOf(rule, id));
    if (!last || !isReacting(rule)) return true;
    const wanted = writtenAt(rule.map, rule.whenNone, last.row);
    return wanted !== undefined && sameValue(now?.values[rule.writes.field] ?? null, wanted);
  }
}

/** Two versions of a rule may run beside each other, each with records of its own. */
const keyOf = ({ id, half }: CompiledRule, record: string): string =>
  `${id} ${half?.isOutside === true} ${record}`;

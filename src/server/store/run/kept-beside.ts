import { type Answers, cellKey, type Need, type Write } from '@/core/engine';
import { type Accumulator } from '@/core/rules';

/** What is kept beside the values of the records that a run has locked. */
export class KeptBeside {
  /** By cell. */
  readonly #accumulators = new Map<string, Accumulator>();
  /** Which child leads, by cell, as far as that is known. */
  readonly #leaders = new Map<string, string>();

  know(
    accumulators: Iterable<readonly [string, Accumulator]>,
    leaders: Iterable<readonly [string, string]>,
  ): void {
    for (const [key, accumulator] of accumulators) this.#accumulators.set(key, accumulator);
    for (const [cell, leader] of leaders) this.#leaders.set(cell, leader);
  }

  /** What a write leaves. */
  note(write: Write): void {
    for (const { field, leader } of write.leaders ?? []) {
      const cell = cellKey({ ...write, field });
      if (leader === null) this.#leaders.delete(cell);
      else this.#leaders.set(cell, leader);
    }
    for (const { field, accumulator } of write.accumulators ?? [])
      this.#accumulators.set(cellKey({ ...write, field }), accumulator);
  }

  accumulators({ rule, targets }: Extract<Need, { kind: 'accumulators' }>): Answers['accumulators'] {
    return new Map(
      targets.ids.flatMap((id) => {
        const kept = this.#accumulators.get(cellKey({ ...rule.writes, id }));
        return kept ? [[id, kept] as const] : [];
      }),
    );
  }

  leaders({ rule, targets }: Extract<Need, { kind: 'leaders' }>): Answers['leaders'] {
    return new Map(
      targets.ids.flatMap((id) => {
        const leader = this.#leaders.get(cellKey({ ...rule.writes, id }));
        return leader ? [[id, leader] as const] : [];
      }),
    );
  }
}

import { type Answers, type Need, recordKey, type RecordRef, type Write } from '@/core/engine';
import { type Beside, NOTHING_BESIDE } from '@/server/store/session/row-cache';

/** What is kept beside the values of the records that a run has locked, or writes. */
export class KeptBeside {
  readonly #of = new Map<string, Beside>();

  know(ref: RecordRef, beside: Beside): void {
    this.#of.set(recordKey(ref), beside);
  }

  of(ref: RecordRef): Beside {
    return this.#of.get(recordKey(ref)) ?? NOTHING_BESIDE;
  }

  /** What a write leaves. */
  note(write: Write): void {
    const { accumulators = [], leaders = [] } = write;
    if (accumulators.length + leaders.length === 0) return;
    const known = this.of(write);
    const led = new Map(known.leaders);
    for (const { field, leader } of leaders)
      if (leader === null) led.delete(field);
      else led.set(field, leader);
    const kept = new Map(known.accumulators);
    for (const { field, accumulator } of accumulators) kept.set(field, accumulator);
    this.know(write, { accumulators: kept, leaders: led });
  }

  accumulators({ rule, targets }: Extract<Need, { kind: 'accumulators' }>): Answers['accumulators'] {
    const { type, field } = rule.writes;
    return new Map(
      targets.ids.flatMap((id) => {
        const kept = this.of({ type, id }).accumulators.get(field);
        return kept ? [[id, kept] as const] : [];
      }),
    );
  }

  leaders({ rule, targets }: Extract<Need, { kind: 'leaders' }>): Answers['leaders'] {
    const { type, field } = rule.writes;
    return new Map(
      targets.ids.flatMap((id) => {
        const leader = this.of({ type, id }).leaders.get(field);
        return leader ? [[id, leader] as const] : [];
      }),
    );
  }
}

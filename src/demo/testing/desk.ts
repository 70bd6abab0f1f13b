import {
  type Edit,
  MemoryStore,
  Overlay,
  propagate,
  type PropagateInput,
  type Proposed,
  runInMemory,
} from '@/core/engine';
import { type Model, readModel } from '@/core/model';
import { buildPlan } from '@/core/plan';
import { displayValue, type Value } from '@/core/values';
import { rowOf } from '@/demo/made';
import { WRENFIELD } from '@/demo/model';
import { RULES } from '@/demo/rules/rules';

const DAY = '2026-10-30';
const rules = RULES.map(({ definition }, index) => ({
  ...{ id: String(index), version: '', name: `Rule ${index}`, definition },
}));

/** The demo's model and rules over a few records made by hand. Figures are worked out beside each test. */
export class Desk {
  readonly #model: Model;
  readonly #store: MemoryStore;
  readonly #plan;
  readonly #later = new Map<string, readonly string[]>();
  #made = 0;
  /** What the last change proposed. */
  proposals: readonly Proposed[] = [];

  constructor(settledDay = DAY) {
    this.#model = readModel(WRENFIELD, settledDay);
    this.#plan = buildPlan(this.#model, rules).plan;
    this.#store = new MemoryStore(this.#model, true);
  }

  add(type: string, id: string, values: Record<string, Value> = {}): this {
    // What isn't given isn't entered.
    const all = Object.entries(rowOf(type, id, values).values);
    const entered = all.filter(([field, value]) => value !== null || field in values);
    return this.save({ kind: 'create', type, id, values: Object.fromEntries(entered) });
  }

  change(type: string, id: string, values: Record<string, Value>): this {
    return this.save({ kind: 'edit', type, id, values });
  }

  remove(type: string, id: string): this {
    return this.save({ kind: 'delete', type, id });
  }

  /** Lets every pace come round. */
  settle(): this {
    const due = new Map(this.#later);
    this.#later.clear();
    return this.run({ edits: [], due });
  }

  private save(edit: Edit): this {
    return this.run({ edits: [edit] });
  }

  private run(input: Pick<PropagateInput, 'edits' | 'due'>): this {
    const overlay = new Overlay(this.#model, this.#store);
    const newId = () => `made-${(this.#made += 1)}`;
    const facts = { person: null, moment: '2027-03-01T12:00:00.000Z' };
    const run = propagate({ model: this.#model, plan: this.#plan, newId, facts, ...input });
    const outcome = runInMemory(this.#model, overlay, run);
    if (outcome.kind === 'refused') throw new Error(outcome.problems.map(({ message }) => message).join(' '));
    overlay.commit();
    this.proposals = outcome.ripple.proposals;
    for (const { rule, ids } of outcome.ripple.later)
      this.#later.set(rule, [...(this.#later.get(rule) ?? []), ...ids]);
    return this;
  }

  /** A field in words. */
  at(type: string, id: string, field: string): string {
    const row = this.#store.row(type, id)!;
    return (
      row.errors[field] ??
      displayValue(this.#model.field(type, field)!.type, row.values[field] ?? null, (id) => id)
    );
  }

  /** The records of a type that are there. */
  all(type: string): string[] {
    return [...this.#store.rows(type)].filter(({ deleted }) => !deleted).map(({ id }) => id);
  }
}

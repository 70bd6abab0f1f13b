import {
  type Edit,
  type Entry,
  MemoryStore,
  Overlay,
  propagate,
  type PropagateInput,
  type Ripple,
  type Row,
  recordKey,
  runInMemory,
  writeBack,
} from '@/core/engine';
import type { Model } from '@/core/model';
import { buildPlan, type Plan } from '@/core/plan';
import type { Rule, RuleDefinition } from '@/core/rules';
import type { Value } from '@/core/values';
import { ruleOf, uuid } from './galleries';

export const edit = (type: string, id: string, values: Record<string, Value>): Edit => ({
  kind: 'edit',
  type,
  id,
  values,
});
export const create = (type: string, id: string, values: Record<string, Value>): Edit => ({
  ...{ kind: 'create', type, id },
  values: { title: `New ${type}`, ...values },
});

/** Rules numbered in their order, from 1 on. */
export const numbered = <D extends RuleDefinition>(definitions: readonly D[]): Rule<D>[] =>
  definitions.map((one, at) => ruleOf(one, at + 1));

/** A few records in memory and the rules over them. A run that is refused changes nothing. */
export class RuleDesk {
  readonly store: MemoryStore;
  readonly plan: Plan;
  /** Of the last run; `null` where it was refused. */
  ripple: Ripple | null = null;
  /** Why the last run was refused; empty where it wasn't. */
  refused = '';
  #ids = 10_000;

  constructor(
    readonly model: Model,
    rules: readonly Rule[],
    rows: readonly Row[],
  ) {
    const { plan, problems } = buildPlan(model, rules);
    expect(problems).toEqual([]);
    this.plan = plan;
    this.store = new MemoryStore(model, true);
    rows.forEach((row) => this.store.put(row));
  }

  run(edits: readonly Edit[], also: Partial<PropagateInput> = {}): this {
    const { model, plan } = this;
    const overlay = new Overlay(model, this.store);
    const newId = () => uuid(String((this.#ids += 1)));
    const outcome = runInMemory(model, overlay, propagate({ model, plan, edits, newId, ...also }));
    this.refused = outcome.kind === 'refused' ? outcome.problems.map(({ message }) => message).join(' ') : '';
    this.ripple = outcome.kind === 'done' ? outcome.ripple : null;
    if (outcome.kind === 'done') overlay.commit();
    return this;
  }

  /** Values stand again as they did before a run that is undone. */
  back(type: string, id: string, values: Record<string, Value>): this {
    const { model, plan } = this;
    const before = this.store.row(type, id)!;
    const entry: Entry = {
      ...{ type, id, kind: 'edit', before, after: { ...before, values: { ...before.values, ...values } } },
      ...{ fields: new Set(Object.keys(values)), index: 0, causes: new Map(), deletedWith: null },
    };
    const entries = new Map([[recordKey(entry), entry]]);
    const overlay = new Overlay(model, this.store);
    const outcome = runInMemory(model, overlay, writeBack({ model, plan, entries }));
    if (outcome.kind === 'refused') throw new Error(outcome.problems[0]!.message);
    this.ripple = outcome.ripple;
    overlay.commit();
    return this;
  }

  at(type: string, id: string, field: string): Value {
    return this.store.row(type, id)!.values[field] ?? null;
  }
}

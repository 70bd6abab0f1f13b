import { type CompiledRule, isAskedBy, isSlower } from '@/core/rules';
import { type Affected, isThere } from '@/core/engine/reach/affected';
import type { Touched } from '@/core/engine/driver/record';
import { layersAbove, partsBeneath } from '@/core/engine/reach/hierarchy-layers';
import { ask, type Answer, type Need } from '@/core/engine/driver/need';
import { recordKey } from '@/core/engine/driver/record';
import type { Later } from '@/core/engine/driver/ripple';

/** Of a slower rule: what a run works out of it, and what it leaves for its pace. */
export interface PacedTargets {
  readonly affected: Affected;
  /** A loop that the rule would run in; empty where there is none. */
  readonly loop: readonly string[];
}

/**
 * Which targets of slower rules a run works out: those that it was started for, and those that ask for it in the run. All others that it
 * reaches are left as they are and noted.
 */
export class Deferral {
  readonly #later = new Map<string, { readonly type: string; readonly ids: Set<string> }>();

  constructor(
    /** By rule: targets for which its pace has come round. */
    private readonly due: ReadonlyMap<string, readonly string[]>,
    /** Every pace comes round at once, as in a rehearsal: nothing is left. */
    private readonly isEvery: boolean,
  ) {}

  /** Whether the pace of any rule has come round in this run. */
  get isAnyDue(): boolean {
    return this.due.size > 0;
  }

  /** Whether a rule's pace has come round in this run. */
  isDue(rule: string): boolean {
    return this.due.has(rule);
  }

  isDeferred(rule: CompiledRule): boolean {
    return isSlower(rule) && !this.isEvery;
  }

  /** The targets of a waiting rule that are worked out now. */
  asked(rule: CompiledRule, touched: ReadonlyMap<string, Touched>): string[] {
    const { type } = rule.writes;
    const gone = (id: string) => touched.get(recordKey({ type, id }))?.after?.deleted === true;
    const ids = [...(this.due.get(rule.id) ?? []), ...askedIn(rule, touched)];
    return [...new Set(ids)].filter((id) => !gone(id));
  }

  /** Targets of a waiting rule that may be worked out, from fields alone that may turn yes. */
  mayAsk(rule: CompiledRule, touched: ReadonlyMap<string, Touched>): string[] {
    const asking = [...touched.values()].flatMap(({ type, id, fields }) =>
      [...fields].some((field) => isAskedBy(rule, { type, field })) ? [id] : [],
    );
    return [...new Set([...(this.due.get(rule.id) ?? []), ...asking])];
  }

  /** Takes apart what a waiting rule's targets are: those that are worked out now, with all beneath them where it goes all the way down. */
  *of(
    rule: CompiledRule,
    affected: Affected,
    touched: ReadonlyMap<string, Touched>,
  ): Generator<Need, PacedTargets, Answer> {
    const asked = this.asked(rule, touched);
    const now = new Set(rule.recursion ? yield* partsBeneath(rule, asked, touched) : asked);
    let later = [...affected.targets.keys()].filter((id) => !now.has(id));
    if (rule.recursion && later.length > 0) {
      const { wholesOf, loop } = yield* layersAbove(rule, later, touched);
      if (loop.length > 0) return { affected, loop };
      later = [...wholesOf.keys()].filter((id) => !now.has(id));
    }
    this.leave(rule, later);
    if (now.size > 0)
      yield* ask<'takeLater'>({ kind: 'takeLater', rule: rule.id, type: rule.writes.type, ids: [...now] });
    const targets = new Map(Array.from(now, (id) => [id, affected.targets.get(id) ?? []]));
    return { affected: { targets, whole: now }, loop: [] };
  }

  private leave({ id: rule, writes: { type } }: CompiledRule, ids: readonly string[]): void {
    if (ids.length === 0) return;
    const known = this.#later.get(rule) ?? { type, ids: new Set<string>() };
    for (const id of ids) known.ids.add(id);
    this.#later.set(rule, known);
  }

  /** What the run leaves for later paces. */
  later(): Later[] {
    return Array.from(this.#later, ([rule, { type, ids }]) => ({ rule, type, ids: [...ids] }));
  }
}

/** Targets of which a yes/no field turned yes in the run, which is a request. */
function askedIn({ pace, writes }: CompiledRule, touched: ReadonlyMap<string, Touched>): string[] {
  if (typeof pace === 'string' || pace.kind !== 'onRequest' || pace.field === null) return [];
  const { field } = pace;
  return [...touched.values()].flatMap(({ type, id, before, after }) => {
    const isAsked = isThere(after) && after.values[field] === true && before?.values[field] !== true;
    return type === writes.type && isAsked ? [id] : [];
  });
}

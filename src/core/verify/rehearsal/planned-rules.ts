import { type Model, readModel } from '@/core/model';
import { buildPlan, type RuleProblem } from '@/core/plan';
import type { Rule, RuleDefinition } from '@/core/rules';
import { type RuleSet, type Forgets } from '@/core/verify/rehearsal/run-through';

/** Rules that proofs are run through: their plan is made once for each day. A rule among them may forget edits of a sort. */
export class PlannedRules {
  readonly #onDays = new Map<string | null, Planned>();
  readonly #models = new Map<string, Model>();

  constructor(
    private readonly rules: readonly Rule[],
    private readonly forgetful: { readonly rule: string; readonly forgets: Forgets } | null = null,
  ) {}

  on(model: Model): Planned {
    let known = this.#onDays.get(model.settledDay);
    if (!known) this.#onDays.set(model.settledDay, (known = this.plan(model)));
    return known;
  }

  /** On a day: the model that is read as of it, and the plan. */
  onDay(of: Model, day: string): RuleSet & Pick<Planned, 'problems'> {
    let model = day === of.settledDay ? of : this.#models.get(day);
    if (!model) this.#models.set(day, (model = readModel(of, day)));
    return { model, ...this.on(model) };
  }

  private plan(model: Model): Planned {
    const { plan, problems } = buildPlan(model, this.rules);
    const onDay = (day: string) => this.onDay(model, day);
    if (!this.forgetful) return { plan, problems, onDay };
    const { rule, forgets: what } = this.forgetful;
    const without = buildPlan(
      model,
      this.rules.filter(({ id }) => id !== rule),
    );
    return {
      ...{ plan, problems: [...problems, ...without.problems] },
      ...{ onDay, forgetting: { what, without: without.plan } },
    };
  }
}

/** Rules with one of them otherwise than it is: as another definition, or forgetting edits of a sort. */
export function plannedWith(
  rules: readonly Rule[],
  id: string,
  { definition, forgets }: { readonly definition: RuleDefinition; readonly forgets?: Forgets },
): PlannedRules {
  const changed = rules.map((rule) => (rule.id === id ? { ...rule, definition } : rule));
  return new PlannedRules(changed, forgets ? { rule: id, forgets } : null);
}

type Planned = Omit<RuleSet, 'model' | 'onDay'> & {
  readonly problems: readonly RuleProblem[];
  readonly onDay: (day: string) => RuleSet & Pick<Planned, 'problems'>;
};

import { checkSectionConditions, checkSelections } from '@/core/expression';
import { type Model, type StorageStep } from '@/core/model';
import { buildPlan, downstream, changedRules, reactingTo } from '@/core/plan';
import {
  checkRuleDefaults,
  type AnyCompiled,
  type CompiledRule,
  isReacting,
  isReactingCascade,
  compileBeside,
  type FieldRef,
  type Rule,
  type RuleState,
  semanticKey,
  sentenceOf,
} from '@/core/rules';
import { isConverted, itemAt, type Problem } from '@/core/values';

/** A rule as a change of the model meets it. */
export interface MetRule extends Rule {
  readonly state: RuleState;
}

export interface ModelEffect {
  readonly id: string;
  readonly name: string;
  readonly state: RuleState;
  readonly before: string;
  /** The sentence afterwards; the same where no name in it changes. */
  readonly after: string;
}

export interface ModelEffects {
  /** Rules that couldn't stand afterwards: the change is refused because of them. */
  readonly blocked: readonly { readonly rule: ModelEffect; readonly problems: readonly Problem[] }[];
  /** Selections and sections that couldn't be read afterwards: the change is refused because of them. */
  readonly unreadable: readonly Problem[];
  /** Rules that read, write or name something that changes. */
  readonly touched: readonly ModelEffect[];
  /** Live rules that have to be worked out again, in order: they read or write stored values that change. */
  readonly again: readonly string[];
  /** Live rules that react to what those are filled with, where that is wanted. */
  readonly reacting: readonly { readonly id: string; readonly name: string }[];
}

/** What a change of the model means for the rules. Rules that didn't stand before (old drafts) don't block it. */
export function modelEffects(
  before: Model,
  after: Model,
  steps: readonly StorageStep[],
  rules: readonly MetRule[],
  nameOf: (id: string) => string | undefined,
): ModelEffects {
  const blocked: { rule: ModelEffect; problems: readonly Problem[] }[] = [];
  const touched: ModelEffect[] = [];
  const changed = changedFields(steps);
  for (const rule of rules) {
    const was = compileBeside(before, rule);
    if (!was.ok) continue;
    const is = compileBeside(after, rule);
    const says = (model: Model, rules: readonly AnyCompiled[]) =>
      rules.map((one) => sentenceOf(model, one, nameOf)).join(' Elsewhere: ');
    const effect = {
      ...{ id: rule.id, name: rule.name, state: rule.state },
      before: says(before, was.rules),
      after: is.ok ? says(after, is.rules) : '',
    };
    if (!is.ok) blocked.push({ rule: effect, problems: is.problems });
    else if (
      effect.before !== effect.after ||
      was.rules.some((one, at) => isOtherCondition(one, itemAt(is.rules, at))) ||
      was.rules.flatMap(({ reads, writes }) => [...reads, writes]).some(changed)
    )
      touched.push(effect);
  }
  const unreadable = [
    ...checkSelections(after),
    ...checkSectionConditions(after),
    ...checkRuleDefaults(after),
  ];
  const isRefused = blocked.length + unreadable.length > 0;
  return {
    blocked,
    unreadable,
    touched,
    ...(isRefused ? { again: [], reacting: [] } : workedOutAgain(before, after, rules, changed)),
  };
}

/** Whether other records count: a selection that the condition uses has changed. */
const isOtherCondition = (was: AnyCompiled, is: AnyCompiled): boolean => semanticKey(was) !== semanticKey(is);

/** Fields whose stored values change. */
function changedFields(steps: readonly StorageStep[]): (ref: FieldRef) => boolean {
  const keys = new Set(
    steps.flatMap((step) =>
      step.kind === 'changeField' && (isConverted(step.from.type, step.to.type) || step.whereEmpty !== null)
        ? [`${step.type}.${step.to.key}`]
        : [],
    ),
  );
  return ({ type, field }) => keys.has(`${type}.${field}`);
}

function workedOutAgain(
  before: Model,
  after: Model,
  rules: readonly MetRule[],
  changed: (ref: FieldRef) => boolean,
): Pick<ModelEffects, 'again' | 'reacting'> {
  const live = rules.filter(({ state }) => state === 'live');
  const { plan } = buildPlan(after, live);
  const other = new Set(changedRules(plan, buildPlan(before, live).plan));
  const first = plan.rules.filter((rule) => other.has(rule) || [...rule.reads, rule.writes].some(changed));
  const all = new Set([...first, ...first.flatMap((rule) => downstream(plan, rule))].map(({ id }) => id));
  const again = plan.rules.filter(({ id }) => all.has(id));
  return {
    again: again.map(({ id }) => id),
    reacting: reactingTo(plan, again.filter(isKept)).map(({ id, name }) => ({ id, name })),
  };
}

/** What a rule keeps is filled; one that reacts acts on that. */
const isKept = (rule: CompiledRule): boolean => !isReacting(rule) && !isReactingCascade(rule);

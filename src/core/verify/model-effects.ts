import { type Model, type StorageStep } from '../model';
import { buildPlan, downstream } from '../plan';
import { compileRollUp, type FieldRef, type Rule, type RuleState, sentenceOf } from '../rules';
import { isConverted, type Problem } from '../values';

/** A rule as a change of the model meets it. */
export interface MetRule extends Rule {
  readonly state: RuleState;
}

export interface RuleEffect {
  readonly id: string;
  readonly name: string;
  readonly state: RuleState;
  readonly before: string;
  /** The sentence afterwards; the same where no name in it changes. */
  readonly after: string;
}

export interface ModelEffects {
  /** Rules that couldn't stand afterwards: the change is refused because of them. */
  readonly blocked: readonly { readonly rule: RuleEffect; readonly problems: readonly Problem[] }[];
  /** Rules that read, write or name something that changes. */
  readonly touched: readonly RuleEffect[];
  /** Live rules that have to be worked out again, in order: they read or write stored values that change. */
  readonly again: readonly string[];
}

/** What a change of the model means for the rules. Rules that didn't stand before (old drafts) don't block it. */
export function modelEffects(
  before: Model,
  after: Model,
  steps: readonly StorageStep[],
  rules: readonly MetRule[],
  nameOf: (id: string) => string | undefined,
): ModelEffects {
  const blocked: { rule: RuleEffect; problems: readonly Problem[] }[] = [];
  const touched: RuleEffect[] = [];
  const changed = changedFields(steps);
  for (const rule of rules) {
    const was = compileRollUp(before, rule);
    if (!was.ok) continue;
    const is = compileRollUp(after, rule);
    const effect = {
      ...{ id: rule.id, name: rule.name, state: rule.state },
      before: sentenceOf(before, was.rule, nameOf),
      after: is.ok ? sentenceOf(after, is.rule, nameOf) : '',
    };
    if (!is.ok) blocked.push({ rule: effect, problems: is.problems });
    else if (effect.before !== effect.after || [...was.rule.reads, was.rule.writes].some(changed))
      touched.push(effect);
  }
  return { blocked, touched, again: blocked.length > 0 ? [] : workedOutAgain(after, rules, changed) };
}

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
  after: Model,
  rules: readonly MetRule[],
  changed: (ref: FieldRef) => boolean,
): string[] {
  const { plan } = buildPlan(
    after,
    rules.filter(({ state }) => state === 'live'),
  );
  const first = plan.rules.filter((rule) => [...rule.reads, rule.writes].some(changed));
  const all = new Set([...first, ...first.flatMap((rule) => downstream(plan, rule))].map(({ id }) => id));
  return plan.rules.filter(({ id }) => all.has(id)).map(({ id }) => id);
}

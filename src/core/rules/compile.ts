import type { Model } from '@/core/model';
import { byKind, type Problem } from '@/core/values';
import { compileCascade } from './cascade/check-cascade';
import { compileFormula } from './formula/check-formula';
import { compileLinkRule } from './link/check-link-rule';
import { compileRollUp } from './roll-up/check-roll-up';
import { compileCreate } from './create/check-create';
import { inPilot } from './pilot';
import type { AnyCompiled, CompiledRule, Rule, RuleDefinition } from './rule';

export type Compiled =
  | { readonly ok: true; readonly rule: AnyCompiled }
  | { readonly ok: false; readonly problems: readonly Problem[] };

/** Checks a rule of any kind against the model and types it; in a pilot as it runs there. */
export function compileRule(model: Model, rule: Rule): Compiled {
  const compiled = compileWhole(model, rule);
  return compiled.ok && rule.pilot ? inPilot(model, compiled.rule, rule.pilot) : compiled;
}

function compileWhole(model: Model, rule: Rule): Compiled {
  return compileKind(rule.definition, model, rule);
}

/** The rule beside its definition, which is known by its kind. */
type Beside = Omit<Rule, 'definition'>;

const compileKind = byKind<RuleDefinition, [model: Model, rule: Beside], Compiled>({
  rollUp: (definition, model, rule) => compileRollUp(model, { ...rule, definition }),
  formula: (definition, model, rule) => compileFormula(model, { ...rule, definition }),
  cascade: (definition, model, rule) => compileCascade(model, { ...rule, definition }),
  create: (definition, model, rule) => compileCreate(model, { ...rule, definition }),
  link: (definition, model, rule) => compileLinkRule(model, { ...rule, definition }),
});

/** A rule that writes several fields, as one rule for each of them: each stands for itself in a plan. */
export const partsOf = byKind<CompiledRule, [], readonly CompiledRule[]>({
  rollUp: (rule) => [rule, ...rule.together],
  formula: (rule) => [rule],
  keptCascade: (rule) => [rule, ...rule.parts],
  reactingCascade: (rule) => [rule, ...rule.parts],
  linked: (rule) => [rule],
});

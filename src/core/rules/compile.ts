import type { Model } from '@/core/model';
import { type Problem, unreachable } from '@/core/values';
import { compileCascade } from './cascade/check-cascade';
import { compileFormula } from './formula/check-formula';
import { compileLinkRule } from './link/check-link-rule';
import { compileRollUp } from './roll-up/check-roll-up';
import { compileCreate } from './create/check-create';
import { inPilot } from './pilot';
import type { AnyCompiled, CompiledRule, Rule } from './rule';

export type Compiled =
  | { readonly ok: true; readonly rule: AnyCompiled }
  | { readonly ok: false; readonly problems: readonly Problem[] };

/** Checks a rule of any kind against the model and types it; in a pilot as it runs there. */
export function compileRule(model: Model, rule: Rule): Compiled {
  const compiled = compileWhole(model, rule);
  return compiled.ok && rule.pilot ? inPilot(model, compiled.rule, rule.pilot) : compiled;
}

function compileWhole(model: Model, rule: Rule): Compiled {
  const { definition } = rule;
  switch (definition.kind) {
    case 'formula':
      return compileFormula(model, { ...rule, definition });
    case 'rollUp':
      return compileRollUp(model, { ...rule, definition });
    case 'cascade':
      return compileCascade(model, { ...rule, definition });
    case 'create':
      return compileCreate(model, { ...rule, definition });
    case 'link':
      return compileLinkRule(model, { ...rule, definition });
    default:
      return unreachable(definition);
  }
}

/** A rule that writes several fields, as one rule for each of them: each stands for itself in a plan. */
export function partsOf(rule: CompiledRule): readonly CompiledRule[] {
  switch (rule.kind) {
    case 'rollUp':
      return [rule, ...rule.together];
    case 'keptCascade':
    case 'reactingCascade':
      return [rule, ...rule.parts];
    case 'formula':
    case 'linked':
      return [rule];
    default:
      return unreachable(rule);
  }
}

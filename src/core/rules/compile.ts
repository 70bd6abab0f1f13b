import type { Model } from '@/core/model';
import { byKind, type Problem } from '@/core/values';
import { compileCascade } from './cascade/check-cascade';
import { compileFormula } from './formula/check-formula';
import { compileLinkRule } from './link/check-link-rule';
import { compileRollUp } from './roll-up/check-roll-up';
import { compileCreate } from './create/check-create';
import { inPilot } from './pilot';
import { besideEachOther, type CompiledBeside } from './beside';
import type { AnyCompiled, Rule, RuleDefinition } from './rule';

export type Compiled =
  | { readonly ok: true; readonly rule: AnyCompiled }
  | { readonly ok: false; readonly problems: readonly Problem[] };

/** Checks a rule of any kind against the model and types it; in a pilot as it runs there. */
export function compileRule(model: Model, rule: Rule): Compiled {
  const compiled = compileWhole(model, rule);
  return compiled.ok && rule.pilot ? inPilot(model, compiled.rule, rule.pilot) : compiled;
}

/** The same as rules that run by themselves: two where one version is tried beside another, each for its own records. */
export function compileBeside(model: Model, rule: Rule): CompiledBeside {
  const { pilot, beside } = rule;
  if (!pilot || !beside) {
    const compiled = compileRule(model, rule);
    return compiled.ok ? { ok: true, rules: [compiled.rule] } : compiled;
  }
  const tried = compileWhole(model, rule);
  const live = compileWhole(model, { ...rule, version: beside.version, definition: beside.definition });
  if (!tried.ok) return tried;
  return live.ok ? besideEachOther(model, { tried: tried.rule, live: live.rule, pilot }) : live;
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

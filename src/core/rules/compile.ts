import type { Model } from '../model';
import type { Problem } from '../values';
import { compileFormula } from './check-formula';
import { compileRollUp } from './check-roll-up';
import type { CompiledRule, Rule } from './rule';

export type Compiled =
  | { readonly ok: true; readonly rule: CompiledRule }
  | { readonly ok: false; readonly problems: readonly Problem[] };

/** Checks a rule of any kind against the model and types it. */
export function compileRule(model: Model, rule: Rule): Compiled {
  const { definition } = rule;
  return definition.kind === 'formula'
    ? compileFormula(model, { ...rule, definition })
    : compileRollUp(model, { ...rule, definition });
}

import type { Expression } from '@/core/expression';
import type { Model } from '@/core/model';
import { compileRule, type Formula, type Rule } from '@/core/rules';
import { sameData } from '@/core/values';
import type { Rewritten } from './finding';

/** What a formula comes to on every record. */
function wholeOf({ appliesWhen, value, otherwise }: Formula): Expression {
  if (!appliesWhen) return value;
  const none: Expression = { kind: 'constant', value: null };
  return { kind: 'if', condition: appliesWhen, then: value, otherwise: otherwise ?? none };
}

/** A formula that is the first where that applies, and the second elsewhere; `null` where the first leaves nothing to another. */
const either = (first: Formula, second: Formula): Formula | null =>
  first.appliesWhen && first.otherwise === null ? { ...first, otherwise: wholeOf(second) } : null;

/**
 * Two formulas that keep one field, as one that states both: the rule at hand where it applies, else the other; the other first where only that has a
 * condition. `null` where neither has, where they round or bound otherwise, and where it is written so already.
 */
export function asOneFormula(model: Model, rule: Rule, other: Rule): Rewritten | null {
  const [own, its] = [rule.definition, other.definition];
  if (own.kind !== 'formula' || its.kind !== 'formula') return null;
  if (own.type !== its.type || own.target !== its.target) return null;
  if (!sameData(own.rounding, its.rounding) || !sameData(own.limits ?? null, its.limits ?? null)) return null;
  const isStated = [own.otherwise, own.value].some((part) => part !== null && sameData(part, wholeOf(its)));
  const isLed = sameData(own.value, its.value) && sameData(own.appliesWhen, its.appliesWhen);
  if (isStated || isLed) return null;
  const definition = either(own, its) ?? either(its, own);
  if (!definition) return null;
  const written = { ...definition, pace: own.pace };
  return compileRule(model, { ...rule, definition: written }).ok
    ? { label: `State “${other.name}” in it too`, definition: written }
    : null;
}

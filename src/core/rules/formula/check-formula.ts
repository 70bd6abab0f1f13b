import { type Expression, kindWords, type Typed, typeCondition, typeValue } from '@/core/expression';
import type { Field, Model } from '@/core/model';
import { type Problem, type ValueType } from '@/core/values';
import { checkRounding, checkTarget, finding, typedPart } from '@/core/rules/shared/check-target';
import { checkPace } from '@/core/rules/pace';
import type { CompiledFormula, Formula } from './formula';
import { ratesReadBy } from '@/core/rules/shared/rates-read';
import { ReadPaths } from '@/core/rules/shared/read-paths';
import type { Rule } from '@/core/rules/rule';
import type { Read } from '@/core/rules/shared/base';
import { compileLimits } from '@/core/rules/shared/result-pipeline';
import { isWritable } from '@/core/rules/shared/is-writable';

/** The parts of a formula's sentence at which a finding may point. */
export type FormulaPart =
  'type' | 'target' | 'value' | 'appliesWhen' | 'otherwise' | 'rounding' | 'limits' | 'pace';

export type CompiledAsFormula =
  | { readonly ok: true; readonly rule: CompiledFormula }
  | { readonly ok: false; readonly problems: readonly Problem[] };

/**
 * Checks a formula against the model and types it. Refuses, with one finding for each part of the sentence: a type or field that
 * doesn't exist, an expression that can't be read (with its place in the text), a result that can't be written into the field.
 */
export function compileFormula(model: Model, rule: Rule<Formula>): CompiledAsFormula {
  const { definition } = rule;
  const type = model.type(definition.type);
  if (!type)
    return {
      ok: false,
      problems: [finding('type', 'rule.type', 'Choose the type of record that this rule is on.')],
    };
  const target = model.field(type.key, definition.target);
  const problems: Problem[] = [];
  if (!target)
    problems.push(finding('target', 'rule.target', `Choose the field of ${type.name} that this rule keeps.`));
  if (!definition.value)
    problems.push(finding('value', 'rule.value', 'Write the expression that the field is kept equal to.'));
  const read = (part: FormulaPart, expression: Expression | null): Typed | null => {
    if (!expression) return null;
    const wanted = target ? { wanted: target.type } : {};
    const typed =
      part === 'appliesWhen'
        ? typeCondition(model, type.key, expression)
        : typeValue(model, type.key, expression, wanted);
    return typedPart(problems, part, typed);
  };
  const value = read('value', definition.value);
  const appliesWhen = read('appliesWhen', definition.appliesWhen);
  const otherwise = read('otherwise', definition.otherwise);
  if (target) problems.push(...checkTarget(target, null));
  for (const [part, typed] of [
    ['value', value],
    ['otherwise', otherwise],
  ] as const)
    if (target && typed && !isWritable(typed.type, target.type))
      problems.push(finding(part, 'rule.kinds', unwritable(typed.type, target)));
  const { limits, problems: ofLimits } = compileLimits(definition.limits, value?.type ?? null);
  problems.push(...checkRounding(definition.rounding), ...ofLimits, ...checkPace(model, definition, false));
  if (problems.length > 0 || !target || !value) return { ok: false, problems };
  const parts = [value, appliesWhen, otherwise].flatMap((part) => part ?? []);
  return {
    ok: true,
    rule: {
      ...{ kind: 'formula', id: rule.id, version: rule.version, name: rule.name, definition },
      ...{ writes: { type: type.key, field: target.key }, target, value, appliesWhen, otherwise },
      ...{ resultType: value.type, rounding: definition.rounding, limits },
      ...{ recursion: null, map: null, pace: definition.pace },
      ...{ reads: readsOf(model, type.key, parts), rates: ratesReadBy(parts) },
    },
  };
}

const unwritable = (type: ValueType, target: Field): string =>
  `The result is ${kindWords(type)}, which can’t be written into ${target.name} (${kindWords(target.type)}). Choose another field, or change the expression.`;

/** Fields of the record and up its links, those that it gathers beneath, and every link on the way. */
function readsOf(model: Model, type: string, parts: readonly Typed[]): Read[] {
  const reads = new ReadPaths(model, type);
  for (const part of parts) {
    reads.addFields([], part);
    reads.addGathered(part);
  }
  return reads.all();
}

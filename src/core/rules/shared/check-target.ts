import { kindWords } from '@/core/expression';
import type { Field } from '@/core/model';
import { type ProblemCode, conversion, type Problem, type Rounding, type ValueType } from '@/core/values';

/** A finding about a part of a rule's sentence. */
export const finding = (part: string, code: ProblemCode, message: string): Problem => ({
  code,
  message,
  place: part,
});

/** A problem found in an expression, as one of the part of the sentence in which it stands. */
export const within = (part: string, problem: Problem): Problem => ({
  ...problem,
  place: [part, problem.place].filter(Boolean).join('.'),
});

/** What a part of the sentence comes to; `null` where it has a problem, which is noted. */
export function typedPart<T>(
  problems: Problem[],
  part: string,
  result: { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problem: Problem },
): T | null {
  if (result.ok) return result.value;
  problems.push(within(part, result.problem));
  return null;
}

/** What keeps a rule from keeping a field: it must be open, told apart by nothing, and of a kind that takes the result. */
export function checkTarget(target: Field, result: ValueType | null): Problem[] {
  if (target.required)
    return [
      finding(
        'target',
        'rule.target',
        `${target.name} must be entered by people. Choose a field that isn’t required.`,
      ),
    ];
  if (target.unique)
    return [
      finding(
        'target',
        'rule.target',
        `${target.name} is unique, and what a rule works out may come twice. Choose a field that isn’t.`,
      ),
    ];
  if (target.type.kind === 'link')
    return [
      finding(
        'target',
        'rule.kinds',
        `${target.name} is a link: a rule of this kind doesn’t fill links. Choose another field.`,
      ),
    ];
  if (!result || conversion(result, target.type)) return [];
  const message = `The result is ${kindWords(result)}, which can’t be written into ${target.name} (${kindWords(target.type)}). Choose another field.`;
  return [finding('target', 'rule.kinds', message)];
}

/** At most twelve digits on either side of the point. */
const STEP = /^\d{1,12}(\.\d{1,12})?$/;

export function checkRounding(rounding: Rounding | null): Problem[] {
  if (!rounding) return [];
  const { mode, places, step } = rounding;
  const isPlaced = Number.isInteger(places) && places >= 0 && places <= 20;
  if (!['nearest', 'up', 'down'].includes(mode) || !isPlaced)
    return [finding('rounding', 'rule.rounding', 'Round to 0 to 20 places: nearest, up or down.')];
  if (step === undefined || (STEP.test(step) && Number(step) > 0)) return [];
  const message = `A step is a number above 0, such as 0.05 or 50, with at most 12 digits on either side of the point; found “${step}”.`;
  return [finding('rounding', 'rule.rounding', message)];
}

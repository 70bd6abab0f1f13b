import { type Model } from '@/core/model';
import { type Problem } from '@/core/values';

import { typeCondition } from './type-expression';

/** What is wrong with the conditions of sections, each with its place (`loan sections`). */
export const checkSectionConditions = (model: Model): Problem[] =>
  model.types.flatMap(({ key, name: typeName, sections = [] }) =>
    sections.flatMap(({ name, condition }): Problem[] => {
      const typed = condition ? typeCondition(model, key, condition) : null;
      if (typed === null || typed.ok) return [];
      const message = `The section “${name}” of ${typeName}: ${typed.problem.message}`;
      return [{ ...typed.problem, place: `${key} sections`, message }];
    }),
  );

/**
 * What is wrong with a model's selections, each with its place (`selection lately`): a condition that can't be read, a type that isn't
 * there, selections that build upon each other in a circle. Empty when all can be used.
 */
export function checkSelections(model: Model): Problem[] {
  return (model.selections ?? []).flatMap(({ key, name, type, condition }): Problem[] => {
    const place = `selection ${key}`;
    if (!model.type(type))
      return [{ code: 'expression.selection', place, message: `“${name}”: there is no type “${type}”.` }];
    const typed = typeCondition(model, type, condition, { within: [key] });
    return typed.ok ? [] : [{ ...typed.problem, place, message: `“${name}”: ${typed.problem.message}` }];
  });
}

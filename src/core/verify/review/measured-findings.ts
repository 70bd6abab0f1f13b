import { type Expression, fieldsRead, testsIn, typeCondition } from '@/core/expression';
import { fieldIn, type Model, typeIn } from '@/core/model';
import { compileRule, type FieldRef, reacts, type RuleDefinition, targetsOf } from '@/core/rules';
import { displayValue, firstIn, writeCount } from '@/core/values';
import { conditionsOf } from '@/core/verify/explain/conditions-of';
import type { Rewritten } from './finding';
import type { ReviewFinding } from './finding';

/** How many records of a type there are, and how many have nothing in a field that a condition tests. */
export interface FieldMeasure {
  readonly type: string;
  readonly field: string;
  readonly records: number;
  readonly empty: number;
}

/** How many records got a value of a field by an import, and when the last did. */
export interface ImportMeasure {
  readonly type: string;
  readonly field: string;
  readonly records: number;
  readonly lastDay: string;
}

/** Fields that the conditions of a rule test for what they hold; those that are asked only whether they are empty aren't among them. */
export function testedFields(model: Model, rule: RuleDefinition): FieldRef[] {
  const found = new Map<string, FieldRef>();
  for (const { type, condition } of conditionsOf(model, rule)) {
    const typed = typeCondition(model, type, condition);
    if (!typed.ok) continue;
    for (const test of testsIn(typed.value))
      if (test.kind !== 'presence')
        for (const { owner, field } of fieldsRead(test))
          found.set(`${owner}.${field}`, { type: owner, field });
  }
  return [...found.values()];
}

/** The rule without the tests of a field, where those stand by themselves in its conditions: what is left must still fit the model. */
export function withoutTestsOf(
  model: Model,
  rule: RuleDefinition,
  { type: owner, field }: FieldRef,
): Rewritten | null {
  const reads = (type: string, node: Expression): boolean => {
    const typed = typeCondition(model, type, node);
    const refs = typed.ok
      ? testsIn(typed.value)
          .filter(({ kind }) => kind !== 'presence')
          .flatMap(fieldsRead)
      : [];
    return refs.some((ref) => ref.owner === owner && ref.field === field);
  };
  for (const { type, condition, put } of conditionsOf(model, rule)) {
    if (!reads(type, condition)) continue;
    const group = condition.kind === 'group' ? condition : null;
    const of = group ? group.of.filter((part) => !reads(type, part)) : [];
    const isAlone = of.length === 1 && group?.operator !== 'none';
    const left = group && of.length > 0 ? (isAlone ? firstIn(of) : { ...group, of }) : null;
    const definition = put(left);
    const isSound = compileRule(model, { id: '', version: '', name: '', definition }).ok;
    return isSound ? { label: `Don’t test ${fieldIn(model, owner, field).name}`, definition } : null;
  }
  return null;
}

/** Fields that a rule keeps, so that people and imports can’t enter them. */
export const closedFields = (model: Model, rule: RuleDefinition): readonly FieldRef[] =>
  reacts(rule) || (rule.kind === 'link' && rule.holds === 'whereEmpty') ? [] : targetsOf(model, rule);

/** Of fewer records nothing is said: it may be chance. */
const FEWEST_MEASURED = 30;
/** The share of records in which a field is empty, from which on it is worth a word. */
const MOSTLY_EMPTY = 0.97;

/** What the data says of a rule: conditions on fields that hardly any record has, and imports that fill what it keeps. */
export function measuredFindings(
  model: Model,
  rule: RuleDefinition,
  fields: readonly FieldMeasure[],
  imports: readonly ImportMeasure[],
): ReviewFinding[] {
  return [
    ...fields
      .filter(({ records, empty }) => records >= FEWEST_MEASURED && empty >= records * MOSTLY_EMPTY)
      .map(({ type, field, records, empty }): ReviewFinding => ({
        code: 'review.empty',
        why: `A condition tests ${fieldIn(model, type, field).name}, which is empty in ${writeCount(empty)} of ${writeCount(records)} ${typeIn(model, type).plural}: of these it holds for none.`,
        fix: withoutTestsOf(model, rule, { type, field }),
        about: { type, field },
      })),
    ...imports
      .filter(({ records }) => records > 0)
      .map(({ type, field, records, lastDay }): ReviewFinding => ({
        code: 'review.imported',
        why: `An import filled ${fieldIn(model, type, field).name} on ${writeCount(records)} ${records === 1 ? typeIn(model, type).name : typeIn(model, type).plural}, last on ${displayValue({ kind: 'date' }, lastDay)}: while the rule keeps it an import with that column is refused. Tell whoever imports to leave it out.`,
        fix: null,
      })),
  ];
}

import { exchangesIn, type Expression, kindWords, typeCondition, typeValue } from '@/core/expression';
import type { Field, Model, RecordType } from '@/core/model';
import { type ProblemCode, KIND_NAMES, type Problem, type WireValue } from '@/core/values';
import type { AssignedValue, CompiledAssigning } from './cascade';
import { isWritable } from '@/core/rules/shared/is-writable';
import { finding, within } from '@/core/rules/shared/check-target';
import { textParts } from './text-template';

export interface ToAssign {
  readonly source: RecordType;
  /** The type of the records over which it is cascaded across, whose values may stand in texts, too; left out where there is none. */
  readonly via?: string | null;
  readonly target: Field;
  readonly value: AssignedValue;
  /** Where findings point. */
  readonly place: string;
  /** Whether it holds at all times: then amounts may be brought into another currency, but nothing hang on who makes a change, or when. */
  readonly isKept: boolean;
}

type Checked =
  | { readonly ok: true; readonly value: CompiledAssigning }
  | { readonly ok: false; readonly problem: Problem };

/** Checks a value that is assigned against the field that takes it. Refuses other kinds, and text that names fields that aren't there. */
export function checkAssigned(
  model: Model,
  { source, via, target, value, place, isKept }: ToAssign,
): Checked {
  const refuse = (code: ProblemCode, message: string): Checked => ({
    ok: false,
    problem: finding(place, code, message),
  });
  if (value.kind === 'text') {
    if (target.type.kind !== 'text' && target.type.kind !== 'longText')
      return refuse('rule.kinds', `Text can’t be written into ${target.name} (${kindWords(target.type)}).`);
    const parts = textParts(model, source.key, value.text, via);
    if (!parts.ok) return { ok: false, problem: { ...parts.problem, place } };
    return {
      ok: true,
      value: { value: { kind: 'text', parts: parts.value }, given: null, type: target.type },
    };
  }
  if (value.kind === 'expression' && !value.expression)
    return refuse('rule.value', `Choose what is cascaded to ${target.name}.`);
  const typed = typeValue(model, source.key, expressionOf(value), {
    ...{ wanted: target.type, isAlone: true, usesRunContext: !isKept },
  });
  if (!typed.ok) return { ok: false, problem: within(place, typed.problem) };
  if (!isKept && exchangesIn(typed.value).length > 0)
    return refuse(
      'cascade.rates',
      'Amounts are brought into another currency by a formula. Make it one, and cascade its field.',
    );
  const type = value.kind === 'empty' ? target.type : typed.value.type;
  if (!isWritable(type, target.type))
    return refuse(
      'rule.kinds',
      `This is ${kindWords(type)}, which can’t be written into ${target.name} (${kindWords(target.type)}). Choose another.`,
    );
  const among =
    value.kind === 'map' && value.otherwise.kind === 'asItIs'
      ? listed(
          value.field,
          value.rows.map(({ from }) => from),
        )
      : null;
  const given = among ? typeCondition(model, source.key, among) : null;
  if (given && !given.ok) return { ok: false, problem: within(place, given.problem) };
  return {
    ok: true,
    value: {
      value: { kind: 'worked', value: typed.value, isBefore: value.kind === 'before' },
      given: given && given.value,
      type,
    },
  };
}

/** Links are found by rules of their own; serial numbers are given. */
const NOT_TAKEN: readonly string[] = ['link', 'serial'];
export const cantTake = ({ name, type }: Field): Problem | null =>
  NOT_TAKEN.includes(type.kind)
    ? finding(
        'target',
        'rule.kinds',
        `${name} is ${KIND_NAMES[type.kind]}, which isn’t cascaded. Choose another field.`,
      )
    : null;

/** What is assigned, as an expression on the record that cascades it. */
function expressionOf(value: Exclude<AssignedValue, { kind: 'text' }>): Expression {
  switch (value.kind) {
    case 'expression':
      return value.expression;
    case 'before':
      return { kind: 'field', route: [], field: value.field };
    case 'empty':
      return { kind: 'constant', value: null };
    default: {
      const rest: Expression = {
        kind: 'constant',
        value: value.otherwise.kind === 'writes' ? value.otherwise.value : null,
      };
      return [...value.rows].reverse().reduce<Expression>(
        (otherwise, { from, to }) => ({
          ...{ kind: 'if', condition: isOption(value.field, from) },
          ...{ then: { kind: 'constant', value: to }, otherwise },
        }),
        rest,
      );
    }
  }
}

const isOption = (field: string, option: WireValue): Expression => {
  const left = { kind: 'field', route: [], field } as const;
  return option === null
    ? { kind: 'presence', operator: 'isEmpty', operand: left }
    : { kind: 'compare', operator: '=', left, right: { kind: 'constant', value: option } };
};

const listed = (field: string, options: readonly WireValue[]): Expression => ({
  ...{ kind: 'group', operator: 'any', of: options.map((option) => isOption(field, option)) },
});

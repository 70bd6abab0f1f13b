import { type Expression, typeCondition, typeFieldRead } from '@/core/expression';
import type { Model } from '@/core/model';
import { firstIn, itemAt, KIND_NAMES, type Problem } from '@/core/values';
import { finding } from '@/core/rules/shared/check-target';
import type { FieldRead } from '@/core/syntax/expression';
import type { CompiledRollUp, PerOption, RollUp, Share } from './roll-up';
import { splitRoute } from './sources';

/** Most options that one rule keeps a field for. */
const MOST_OPTIONS = 30;

/** A rule that keeps a field for each option, as one rule for each of them: they go over the same records. */
export function sharesOf(definition: RollUp, { by, option, others }: PerOption): RollUp[] {
  const { perOption: _apart, ...bare } = definition;
  return [{ option, target: definition.target }, ...others].map((share) => ({
    ...{ ...bare, target: share.target, condition: withOption(bare.condition, by, share.option) },
  }));
}

/** That a record meets a condition, and has an option where a choice is read. */
export function withOption(condition: Expression | null, by: FieldRead, option: string | null): Expression {
  const test: Expression =
    option === null
      ? { kind: 'presence', operator: 'isEmpty', operand: by }
      : { kind: 'compare', operator: '=', left: by, right: { kind: 'constant', value: option } };
  return condition ? { kind: 'group', operator: 'all', of: [condition, test] } : test;
}

/** What else a rule says, which doesn't go with a field for each option, and how that is told. */
const GOES_WITHOUT: readonly (readonly [words: string, isSaid: (rule: RollUp) => boolean])[] = [
  ['brings one kind of records together', ({ also = [] }) => also.length > 0],
  ['takes no value of the record itself', ({ own = {} }) => Object.values(own).some(Boolean)],
  ['writes its results as they are', ({ map }) => Boolean(map)],
  ['takes no further fields of one record', ({ together = [] }) => together.length > 0],
];

/** What keeps a rule from keeping a field for each option; the fields are checked one by one, as those of any rule. */
export function checkPerOption(model: Model, rule: RollUp, { by, option, others }: PerOption): Problem[] {
  const problems: Problem[] = [];
  const say = (place: string, message: string) => problems.push(finding(place, 'rule.perOption', message));
  for (const [words, isSaid] of GOES_WITHOUT)
    if (isSaid(rule))
      say('perOption', `A rule with a field for each option ${words}. Leave one of the two out.`);
  const member = splitRoute(model, rule.type, rule.route)?.type;
  const typed = member === undefined ? null : typeFieldRead(model, member, by);
  if (!typed) return problems;
  if (!typed.ok) return [...problems, { ...typed.problem, place: 'perOption' }];
  const { type } = typed.value;
  if (type.kind !== 'choice') {
    say(
      'perOption',
      `A field for each option needs a choice; this field is ${KIND_NAMES[type.kind]}. Choose another field.`,
    );
    return problems;
  }
  const options = [option, ...others.map((one) => one.option)];
  if (options.length > MOST_OPTIONS) say('perOption', `At most ${MOST_OPTIONS} options have a field each.`);
  options.forEach((key, at) => {
    const place = at === 0 ? 'perOption' : `perOption.${at - 1}.option`;
    if (options.indexOf(key) < at) say(place, 'This option has a field already. Choose another.');
    else if (key !== null && !type.options.some((one) => one.key === key))
      say(place, `“${key}” isn’t an option of it any more. Choose another, or leave it out.`);
  });
  return problems;
}

/** A rule with a field for each option, with what tells these from each other. */
export function withShares(
  model: Model,
  rule: CompiledRollUp,
  { by, option, others }: PerOption,
): CompiledRollUp {
  const member = firstIn(rule.sources).type;
  const typed = typeFieldRead(model, member, by);
  const { condition } = rule.definition;
  const asked = condition ? typeCondition(model, member, condition) : null;
  if (!typed.ok || asked?.ok === false) throw new Error('A rule was put together from parts that don’t fit.');
  const share = (of: string | null): Share => ({
    by: typed.value,
    option: of,
    condition: asked?.value ?? null,
  });
  return {
    ...{ ...rule, share: share(option) },
    together: rule.together.map((one, at) => ({ ...one, share: share(itemAt(others, at).option) })),
  };
}

import { describe, describeField, type NameOf } from '@/core/expression';
import { fieldIn, type Model, typeIn, typeUp } from '@/core/model';
import { tellsParts } from '@/core/rules/create/create-words';
import type { CompiledFinding, CompiledLinked } from './link-rule';
import { paceParts, part, type SentencePart, words } from '@/core/rules/sentence-parts';

/**
 * `On every Loan, keep Top lender linked to the topmost of Part of above its Lender. When none is found: left as it is. With the save.`
 * `On every Artefact, where it is empty, link Crate to the Crate with the same Label as Crate label, whatever the case. Of several: a person is asked. …`
 */
export function linkParts(model: Model, rule: CompiledLinked, nameOf?: NameOf): SentencePart[] {
  const { condition, open, find, none, holds, target } = rule;
  return [
    ...[words('On every '), part('type', typeIn(model, rule.writes.type).name)],
    words(open ? ` whose ${open.name} names no other` : ''),
    ...(condition
      ? [words(open ? ' and where ' : ' where '), part('appliesWhen', describe(model, condition, nameOf))]
      : []),
    words(', '),
    part('holds', holdsWords(holds)),
    ...[words(' '), part('target', target.name), words(holds === 'always' ? ' linked to ' : ' to ')],
    ...foundParts(model, rule, nameOf),
    words('. '),
    ...(find.kind === 'match'
      ? [words('Of several: '), part('several', severalWords(model, find)), words('. ')]
      : []),
    ...[
      words('When none is found: '),
      part('none', none === 'leave' ? 'left as it is' : 'emptied'),
      words('. '),
    ],
    ...tellsParts(rule.definition, nameOf),
    ...paceParts(model, rule),
  ];
}

export const holdsWords = (holds: CompiledLinked['holds']): string =>
  holds === 'always' ? 'keep' : 'where it is empty, link';

export const severalWords = (
  model: Model,
  { several, order }: Extract<CompiledFinding, { kind: 'match' }>,
): string => {
  if (several === 'ask') return 'a person is asked';
  const by = order?.field ? describeField(model, order.field) : 'the order of their making';
  return `the ${order?.isLast ? 'last' : 'first'} by ${by}`;
};

/** Which record: `its Lender’s Part of`, `the topmost of Part of above its Lender`. */
function foundParts(model: Model, { find }: CompiledLinked, nameOf?: NameOf): SentencePart[] {
  if (find.kind === 'route') return [part('find', wayWordsOf(model, find))];
  const { name } = typeIn(model, find.type);
  const keys = find.keys.flatMap(({ field, value }, at) => [
    words(at === 0 ? '' : ' and '),
    part('keys', `${fieldIn(model, field.owner, field.field).name} as ${describe(model, value, nameOf)}`),
  ]);
  return [
    ...[words('the '), part('find', name), words(' with the same ')],
    ...keys,
    words(find.keys.some(({ isFolded }) => isFolded) ? ', whatever the case' : ''),
    ...(find.condition ? [words(' where '), part('condition', describe(model, find.condition, nameOf))] : []),
  ].filter(({ text }) => text !== '');
}

export function wayWordsOf(
  model: Model,
  { value, topmost }: Extract<CompiledFinding, { kind: 'route' }>,
): string {
  const route = [...value.route, value.field];
  const names = route.map(
    (link, at) => fieldIn(model, typeUp(model, value.from, route.slice(0, at)), link).name,
  );
  const its = `its ${names.join('’s ')}`;
  if (!topmost) return its;
  const above = fieldIn(model, topmost.type, topmost.link).name;
  return topmost.isItself
    ? `the topmost over ${above} from ${its}`
    : `the topmost over ${above} above ${its}, none where nothing is above`;
}

/** What is looked for: `Crate with the same Label as Crate label`. */
export const findWords = (model: Model, find: Extract<CompiledFinding, { kind: 'match' }>): string =>
  `${typeIn(model, find.type).name} with the same ${find.keys
    .map(
      ({ field, value }) => `${fieldIn(model, field.owner, field.field).name} as ${describe(model, value)}`,
    )
    .join(' and ')}`;

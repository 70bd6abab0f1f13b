import { article } from '@/core/article';
import { describe, type NameOf, typeCondition } from '@/core/expression';
import { fieldIn, type Model, typeIn } from '@/core/model';
import { certain, displayValue, parseValue, type WireValue } from '@/core/values';
import { assignedWords } from '@/core/rules/cascade/cascade-words';
import type { CompiledCreate, Create, ExecutionMode, ExecutionModeBy } from './create';
import { paceWords } from '@/core/rules/pace';
import { part, type SentencePart, words } from '@/core/rules/sentence-parts';

/**
 * `For every Inspection where Outcome is Damage, make a Treatment, one for each, with Artefact from Artefact, Cause from Remark. They are linked
 * by Inspection. It is made directly; later changes follow as a proposal; changes of it don’t go back. …`
 */
export function createParts(model: Model, rule: CompiledCreate, nameOf?: NameOf): SentencePart[] {
  const { definition } = rule;
  const { type, makes, condition, each, making, following, returning } = definition;
  const typed = condition ? typeCondition(model, type, condition) : null;
  const active = definition.assignments.filter(({ isOff }) => !isOff);
  const made = typeIn(model, makes).name;
  return [
    ...[words('For every '), part('type', typeIn(model, type).name)],
    ...(typed?.ok ? [words(' where '), part('condition', describe(model, typed.value, nameOf))] : []),
    ...[words(', make '), part('makes', `${article(made)} ${made}`), words(', ')],
    part('each', each === 'once' ? 'one for each' : 'one each time'),
    ...(active.length > 0
      ? [
          words(', with '),
          ...active.flatMap(({ target, value }, at) => [
            words(at === 0 ? '' : ', '),
            part(
              'assignments',
              `${fieldIn(model, makes, target).name} ${assignedWords(model, { type, route: [] }, value, target, makes)}`,
            ),
          ]),
        ]
      : []),
    words('. '),
    ...givesParts(model, definition),
    ...linkParts(model, definition),
    ...[
      words('It is made '),
      part('making', executionModeWords(model, type, making)),
      words('; later changes '),
    ],
    part(
      'following',
      following === 'not' ? 'don’t follow' : `follow ${executionModeWords(model, type, following)}`,
    ),
    ...(following === 'not'
      ? []
      : [
          words('; changes of it '),
          part(
            'returning',
            returning === 'not' ? 'don’t go back' : `go back ${executionModeWords(model, type, returning)}`,
          ),
        ]),
    ...[
      words('. When it no longer applies, what was made is '),
      part('afterwards', afterwardsWords(model, definition)),
    ],
    words('. '),
    ...tellsParts(definition, nameOf),
    ...paceOf(definition),
  ];
}

/** `Callum Reyes is written to.` */
export const tellsParts = (
  { tells = null }: { readonly tells?: string | null },
  nameOf?: NameOf,
): SentencePart[] =>
  tells === null ? [] : [part('tells', nameOf?.(tells) ?? 'A person'), words(' is written to. ')];

/** `The Artefact takes Line number “{number}”.` */
function givesParts(model: Model, { type, makes, gives = [] }: Create): SentencePart[] {
  const active = gives.filter(({ isOff }) => !isOff);
  if (active.length === 0) return [];
  const given = active.map(
    ({ target, value }) =>
      `${fieldIn(model, type, target).name} ${assignedWords(model, { type: makes, route: [] }, value, target, type)}`,
  );
  return [words(`The ${typeIn(model, type).name} is given `), part('gives', given.join(', ')), words('. ')];
}

function linkParts(model: Model, { type, makes, back, forward }: Create): SentencePart[] {
  const names = [
    ...(back === null ? [] : [`${fieldIn(model, makes, back).name} of the ${typeIn(model, makes).name}`]),
    ...(forward === null ? [] : [`${fieldIn(model, type, forward).name} of the ${typeIn(model, type).name}`]),
  ];
  return names.length === 0
    ? []
    : [words('They are linked by '), part('links', names.join(' and ')), words('. ')];
}

function paceOf({ pace, mayAsk }: Create): SentencePart[] {
  const said = paceWords(pace);
  const isAsked = typeof pace !== 'string' && pace.kind === 'onRequest';
  const also = mayAsk && !isAsked ? ', or when asked' : '';
  return [part('pace', `${said.charAt(0).toUpperCase()}${said.slice(1)}${also}`), words('.')];
}

const WAYS: Record<ExecutionMode, string> = {
  directly: 'directly',
  proposal: 'as a proposal',
  both: 'directly, and people are told',
  not: 'not at all',
};

export const executionModeName = (way: ExecutionMode): string => WAYS[way];

/** `directly`, `by Kind: as a proposal for Painting, otherwise not at all`. */
export function executionModeWords(model: Model, type: string, way: ExecutionModeBy): string {
  if (typeof way === 'string') return WAYS[way];
  const field = model.field(type, way.field);
  const option = (from: WireValue) => {
    const parsed = field && parseValue(field.type, from);
    return parsed?.ok ? displayValue(certain(field).type, parsed.value) : String(from);
  };
  const rows = way.rows.map(({ from, way: to }) => `${WAYS[to]} for ${option(from)}`);
  return `by ${field?.name ?? way.field} (${[...rows, `otherwise ${WAYS[way.otherwise]}`].join(', ')})`;
}

/** `left as it is`, `marked: State becomes Ended`, `unlinked`, `put into the bin`. */
export function afterwardsWords(
  model: Model,
  { makes, afterwards }: Pick<Create, 'makes' | 'afterwards'>,
): string {
  if (afterwards === 'left') return 'left as it is';
  if (afterwards === 'unlinked') return 'unlinked';
  if (afterwards === 'removed') return 'put into the bin';
  const field = model.field(makes, afterwards.field);
  const parsed = field && parseValue(field.type, afterwards.value);
  const value =
    parsed?.ok && parsed.value !== null ? displayValue(certain(field).type, parsed.value) : 'empty';
  return `marked: ${field?.name ?? afterwards.field} becomes ${value}`;
}

import {
  describe,
  describeField,
  type Expression,
  type NameOf,
  operatorWords,
  type Typed,
} from '@/core/expression';
import { type Field, fieldIn, type Model, typeIn } from '@/core/model';
import {
  byKind,
  certain,
  displayResult,
  displayValue,
  firstIn,
  isMoney,
  type Rounding,
  type Value,
  type ValueType,
  writeDigits,
} from '@/core/values';
import { cascadeParts } from './cascade/cascade-words';
import { createParts } from './create/create-words';
import type { CompiledFormula } from './formula/formula';
import { linkParts } from './link/link-words';
import {
  aggregateEntry,
  type CompiledRollUp,
  type CompiledSource,
  type Joining,
  type Share,
} from './roll-up/roll-up';
import { type AnyCompiled, isReacting } from './rule';
import { precedenceParts } from './precedence';
import { paceParts, part, routeWords, type SentencePart, stepNames, words } from './sentence-parts';
import type { CompiledLimits, CompiledMap } from './shared/result-pipeline';

const AS_IT_IS = 'left as it is';

function whenNoneWords(rule: CompiledRollUp): string {
  const value: Value = rule.whenNone;
  if (value === null && isReacting(rule)) return AS_IT_IS;
  if (isMoney(value) && value.amount.isZero()) return '0';
  return displayValue(rule.target.type, value);
}

/** A rule as a sentence in parts; the interface shows those with a `part` in italics. */
export const sentenceParts = (model: Model, rule: AnyCompiled, nameOf?: NameOf): SentencePart[] =>
  SENTENCES(rule, model, nameOf);

const SENTENCES = byKind<AnyCompiled, [model: Model, nameOf: NameOf | undefined], SentencePart[]>({
  rollUp: (rule, model, nameOf) => rollUpParts(model, rule, nameOf),
  formula: (rule, model, nameOf) => formulaParts(model, rule, nameOf),
  keptCascade: (rule, model, nameOf) => cascadeParts(model, rule, nameOf),
  reactingCascade: (rule, model, nameOf) => cascadeParts(model, rule, nameOf),
  linked: (rule, model, nameOf) => linkParts(model, rule, nameOf),
  create: (rule, model, nameOf) => createParts(model, rule, nameOf),
});

/** An expression as it was written, or in words. */
const expressionWords = (model: Model, written: Expression, typed: Typed, nameOf?: NameOf): string =>
  written.kind === 'feel' ? written.text.trim() : describe(model, typed, nameOf);

function formulaParts(model: Model, rule: CompiledFormula, nameOf?: NameOf): SentencePart[] {
  const { definition, value, appliesWhen, otherwise, rounding } = rule;
  return [
    ...[words('On every '), part('type', typeIn(model, rule.writes.type).name)],
    ...(appliesWhen && definition.appliesWhen
      ? [
          words(' where '),
          part('appliesWhen', expressionWords(model, definition.appliesWhen, appliesWhen, nameOf)),
        ]
      : []),
    ...[words(', keep '), part('target', rule.target.name), words(' equal to ')],
    part('value', expressionWords(model, definition.value, value, nameOf)),
    ...(rounding ? [words(', rounded '), part('rounding', roundingWords(rounding))] : []),
    ...limitsParts(rule.limits),
    words('. '),
    ...(appliesWhen
      ? [
          words('Otherwise: '),
          part(
            'otherwise',
            otherwise && definition.otherwise
              ? expressionWords(model, definition.otherwise, otherwise, nameOf)
              : 'empty',
          ),
          words('. '),
        ]
      : []),
    ...paceParts(model, rule),
  ];
}

function rollUpParts(model: Model, rule: CompiledRollUp, nameOf?: NameOf): SentencePart[] {
  const { rounding, own } = rule;
  const isKept = !isReacting(rule);
  return [
    ...[words('On every '), part('type', typeIn(model, rule.writes.type).name)],
    ...(rule.appliesWhen
      ? [words(' where '), part('appliesWhen', describe(model, rule.appliesWhen, nameOf))]
      : []),
    ...[words(isKept ? ', keep ' : ', change '), part('target', rule.target.name)],
    words(isKept ? (rule.map ? ' by ' : ' equal to ') : ' with '),
    ...toWhat(model, rule, nameOf),
    ...(rounding ? [words(', rounded '), part('rounding', roundingWords(rounding))] : []),
    ...limitsParts(rule.limits),
    ...joiningParts(rule),
    ...percentParts(rule),
    ...(rule.share ? shareParts(model, rule, rule.share) : togetherParts(model, rule, nameOf)),
    ...(rule.map ? [words(': '), part('map', mapWords(rule.target, rule.resultType, rule.map))] : []),
    words('. '),
    ...(own.standsIn
      ? [
          words('Where it is entered, '),
          part('own', describeField(model, own.standsIn)),
          words(' stands in. '),
        ]
      : []),
    words('When none count: '),
    ...(own.whenNone ? [part('own', describeField(model, own.whenNone)), words(', or else ')] : []),
    ...[part('whenNone', whenNoneWords(rule)), words('. ')],
    ...precedenceParts(rule),
    ...paceParts(model, rule),
  ];
}

/** `, and with it Last inspected by equal to its Inspector`. */
const togetherParts = (model: Model, { together }: CompiledRollUp, nameOf?: NameOf): SentencePart[] =>
  together.flatMap((one, at) => [
    words(at === 0 ? ', and with it ' : ', '),
    part('together', one.target.name),
    words(' equal to its '),
    ...one.sources.flatMap((source, index) => [
      ...(index > 0 ? [words(' or ')] : []),
      part('together', source.value ? valueWords(model, source, nameOf) : ''),
    ]),
  ]);

/** `, of those whose Stage is Agreed; Proposed total of those whose Stage is Proposed`. */
const shareParts = (model: Model, rule: CompiledRollUp, { by }: Share): SentencePart[] =>
  [rule, ...rule.together].flatMap(({ target, share }, at) => [
    words(at === 0 ? ', ' : '; '),
    ...(at === 0 ? [] : [part('perOption', target.name), words(' ')]),
    words('of those whose '),
    part('perOption', describeField(model, by)),
    words(' is '),
    part('perOption', optionWords(certain(share))),
  ]);

/** The option whose records a field is kept of, by its name. */
const optionWords = ({ by, option }: Share): string => displayValue(by.type, option);

/** `, at least 0`, `, at least 1 and at most 6`. */
function limitsParts(limits: CompiledLimits | null): SentencePart[] {
  const said = limitsWords(limits);
  return said ? [words(', '), part('limits', said)] : [];
}

export const limitsWords = (limits: { least?: unknown; most?: unknown } | null): string =>
  [
    ...(limits?.least != null ? [`at least ${writeDigits(String(limits.least))}`] : []),
    ...(limits?.most != null ? [`at most ${writeDigits(String(limits.most))}`] : []),
  ].join(' and ');

/** `Confirmed when yes, Proposed when no, otherwise left as it is`. */
export function mapWords(target: Field, resultType: ValueType, { rows, otherwise }: CompiledMap): string {
  const written = (value: Value) => (value === null ? 'empty' : displayValue(target.type, value));
  const all = rows.map(({ test, writes }) => `${written(writes)} when ${testWords(test, resultType)}`);
  return [...all, `otherwise ${otherwise === 'asItIs' ? AS_IT_IS : written(otherwise.value)}`].join(', ');
}

/** What the result is compared with: `yes`, `less than 2`, `on or after 1 May 2027`. */
export function testWords(test: Typed, type: ValueType): string {
  if (test.kind !== 'compare' || test.right.kind !== 'constant') return '';
  const value = displayResult(type, test.right.value);
  if (test.operator === '=') return type.kind === 'yesNo' ? value.toLowerCase() : value;
  return `${operatorWords(test.operator, type.kind).replace(/^is /, '')} ${value}`;
}

/** `“, ” between, each once, 5 at most`. */
export const joiningWords = ({ separator, isDistinct, isFromLast, most }: Joining): string =>
  [
    `“${separator}” between`,
    ...(isDistinct ? ['each once'] : []),
    ...(isFromLast ? ['from the last to the first'] : []),
    ...(most ? [`${most} at most`] : []),
  ].join(', ');

/** `90 in a hundred`. */
export const percentWords = (percent: number): string => `${percent} in a hundred`;

const percentParts = ({ aggregate, definition: { percent } }: CompiledRollUp): SentencePart[] =>
  aggregate === 'percentile'
    ? [words(', under which lie '), part('percent', percentWords(certain(percent)))]
    : [];

const joiningParts = ({ definition: { joining } }: CompiledRollUp): SentencePart[] =>
  joining ? [words(', with '), part('joining', joiningWords(joining))] : [];

/**
 * What a rule keeps its field equal to: `the sum of Insured value over its Loans where Stage is Agreed`, `whether all of its Crates
 * have Sealed`. What else is brought together stands after it: `, and of Cover over its Crates inside, and its own Own cover`.
 */
function toWhat(model: Model, rule: CompiledRollUp, nameOf: NameOf | undefined): SentencePart[] {
  const entry = aggregateEntry(rule.aggregate);
  const called = part('aggregate', entry.words);
  const isQuestion = entry.isQuestion === true;
  const clauses = rule.sources.map((source, at) => {
    const condition = rule.share ? rule.share.condition : source.condition;
    const names = { route: at === 0 ? 'route' : 'also', value: at === 0 ? 'value' : 'also' } as const;
    const records = [
      ...recordWords(model, rule, source).map(({ text, part: named }) =>
        named ? part(names.route, text) : words(text),
      ),
      ...(condition
        ? [words(' where '), part(at === 0 ? 'condition' : 'also', describe(model, condition, nameOf))]
        : []),
    ];
    const value = source.value ? part(names.value, valueWords(model, source, nameOf)) : null;
    if (!value) return records;
    const by = source.order.map((field) => describeField(model, field)).join(', then ');
    const order = by ? [words(' by '), part(at === 0 ? 'order' : 'also', by)] : [];
    return isQuestion
      ? [...records, words(askedWords(certain(source.value).kind)), value]
      : [value, ...order, words(' over '), ...records];
  });
  const others = clauses.slice(1);
  const lead = isQuestion
    ? [words('whether '), called, words(' of ')]
    : [words('the '), called, words(` ${entry.of ?? 'of '}`)];
  return [
    ...lead,
    ...firstIn(clauses),
    ...others.flatMap((clause) => [words(isQuestion ? ', and ' : ', and of '), ...clause]),
    ...(rule.own.adds
      ? [
          words(isQuestion ? ', and it has ' : ', and of its own '),
          part('own', describeField(model, rule.own.adds)),
        ]
      : []),
  ];
}

/** A question is of a yes/no field that members have, or of a condition that they meet. */
export const askedWords = (kind: Expression['kind'] | Typed['kind']): string =>
  kind === 'field' ? ' have ' : ' are such that ';

/** What is read at the far end of a bridge is named by that end already. */
function valueWords(model: Model, source: CompiledSource, nameOf?: NameOf): string {
  const { definition } = source;
  const value = certain(source.value);
  if (value.kind !== 'field') return describe(model, value, nameOf);
  const ups = definition.route.filter(({ direction }) => direction === 'up').length;
  return ups > 0 && value.route.length === ups
    ? fieldIn(model, value.owner, value.field).name
    : describeField(model, value);
}

/** The records of a source: `its Loans`, `the Artefacts of its Loans`, `the Material of its Material uses (each once)`. */
function recordWords(
  model: Model,
  { writes }: CompiledRollUp,
  { definition, once }: CompiledSource,
): SentencePart[] {
  const names = stepNames(model, writes.type, definition.route).reverse();
  const isBridge = definition.route.some(({ direction }) => direction === 'up');
  return [
    words(names.length === 1 ? '' : 'the '),
    ...names.flatMap((name, at) => [
      words(at === names.length - 1 ? 'its ' : ''),
      part('route', name),
      words(at === names.length - 1 ? '' : ' of '),
    ]),
    words(isBridge ? (once ? ' (each once)' : ' (every way)') : ''),
  ].filter(({ text }) => text !== '');
}

/** The records of a source by name: `Loans`, `Artefacts of its Loans`. */
export const sourceName = (
  model: Model,
  { writes }: CompiledRollUp,
  { definition }: CompiledSource,
): string => routeWords(model, writes.type, definition.route);

/** `to 2 places`, `up to whole numbers`, `down to steps of 50`. */
export function roundingWords({ mode, places, step }: Rounding): string {
  const to =
    step !== undefined
      ? `to steps of ${writeDigits(step)}`
      : places === 0
        ? 'to whole numbers'
        : `to ${places} ${places === 1 ? 'place' : 'places'}`;
  return mode === 'nearest' ? to : `${mode} ${to}`;
}

/** A rule as a sentence for people, as plain text. */
export const sentenceOf = (model: Model, rule: AnyCompiled, nameOf?: NameOf): string =>
  sentenceParts(model, rule, nameOf)
    .map(({ text }) => text)
    .join('');

import { describe, type NameOf } from '../expression';
import { fieldIn, type Model, typeIn } from '../model';
import { displayValue, isMoney, type Rounding, type Value } from '../values';
import type { RollUpPart } from './check-roll-up';
import { aggregateEntry, type CompiledRollUp } from './roll-up';

/** The name of the other end of a rule's link: what the parent calls these children (`Loans`). */
export const childrenName = (model: Model, { type, link }: CompiledRollUp['link']): string =>
  fieldIn(model, type, link).otherEnd ?? typeIn(model, type).plural;

function whenNoneWords(rule: CompiledRollUp): string {
  const value: Value = rule.whenNone;
  if (isMoney(value) && value.amount.isZero()) return '0';
  return displayValue(rule.target.type, value);
}

/** A piece of a rule's sentence: plain words, or a part that can be edited. */
export interface SentencePart {
  readonly text: string;
  readonly part: RollUpPart | null;
}

/** A roll-up as a sentence in parts; the interface shows those with a `part` in italics. */
export function sentenceParts(model: Model, rule: CompiledRollUp, nameOf?: NameOf): SentencePart[] {
  const words = (text: string): SentencePart => ({ text, part: null });
  const part = (name: RollUpPart, text: string): SentencePart => ({ text, part: name });
  const { condition, rounding } = rule;
  return [
    ...[
      words('On every '),
      part('type', typeIn(model, rule.writes.type).name),
      words(', keep '),
      part('target', rule.target.name),
    ],
    ...toWhat(model, rule, words, part),
    ...(condition ? [words(' where '), part('condition', describe(model, condition, nameOf))] : []),
    ...(rounding ? [words(', rounded '), part('rounding', roundingWords(rounding))] : []),
    ...[words('. When none count: '), part('whenNone', whenNoneWords(rule)), words('. With the save.')],
  ];
}

type Words = (text: string) => SentencePart;
type Part = (name: RollUpPart, text: string) => SentencePart;

/** `equal to the sum of Insured value over its Loans`, `equal to whether all of Sealed hold over its Crates`. */
function toWhat(model: Model, rule: CompiledRollUp, words: Words, part: Part): SentencePart[] {
  const { aggregate, value, link } = rule;
  const entry = aggregateEntry(aggregate)!;
  const children = part('route', childrenName(model, link));
  const named = value ? part('value', fieldIn(model, value.owner, value.field).name) : null;
  if (entry.isQuestion && named)
    return [
      words(' equal to whether '),
      part('aggregate', entry.words),
      words(' of its '),
      children,
      words(' have '),
      named,
    ];
  const of = entry.words.endsWith('different') ? ' ' : ' of ';
  return [
    ...[words(' equal to the '), part('aggregate', entry.words), words(of)],
    ...(named ? [named, words(' over its ')] : [words('its ')]),
    children,
  ];
}

/** `to 2 places`, `up to whole numbers`, `down to steps of 50`. */
export function roundingWords({ mode, places, step }: Rounding): string {
  const to =
    step !== undefined
      ? `to steps of ${step}`
      : places === 0
        ? 'to whole numbers'
        : `to ${places} ${places === 1 ? 'place' : 'places'}`;
  return mode === 'nearest' ? to : `${mode} ${to}`;
}

/** A roll-up as a sentence for people, as plain text. */
export const sentenceOf = (model: Model, rule: CompiledRollUp, nameOf?: NameOf): string =>
  sentenceParts(model, rule, nameOf)
    .map(({ text }) => text)
    .join('');

/** The name proposed for a rule: `Insured total of an exhibition: sum of Insured value over Loans where Stage is Agreed`. */
export function proposedName(model: Model, rule: CompiledRollUp, nameOf?: NameOf): string {
  const plain: Words = (text) => ({ text, part: null });
  const what = toWhat(model, rule, plain, (_, text) => plain(text))
    .map(({ text }) => text)
    .join('')
    .replace(/^ equal to (the )?/, '')
    .replace(/(whether \S+) of its /, '$1 ')
    .replace(/ its /, ' ');
  const where = rule.condition ? ` where ${describe(model, rule.condition, nameOf)}` : '';
  const name = `${typeIn(model, rule.writes.type).name} ${rule.target.name.toLowerCase()}: ${what}${where}`;
  return name.length > 120 ? `${name.slice(0, 119)}…` : name;
}

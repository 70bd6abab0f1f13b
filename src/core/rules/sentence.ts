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
  const { condition, rounding } = rule;
  return [
    ...[
      words('On every '),
      part('type', typeIn(model, rule.writes.type).name),
      words(', keep '),
      part('target', rule.target.name),
    ],
    ...[words(' equal to '), ...toWhat(model, rule, false)],
    ...(condition ? [words(' where '), part('condition', describe(model, condition, nameOf))] : []),
    ...(rounding ? [words(', rounded '), part('rounding', roundingWords(rounding))] : []),
    ...[words('. When none count: '), part('whenNone', whenNoneWords(rule)), words('. With the save.')],
  ];
}

const words = (text: string): SentencePart => ({ text, part: null });
const part = (name: RollUpPart, text: string): SentencePart => ({ text, part: name });

/**
 * What a rule keeps its field equal to: `the sum of Insured value over its Loans`, `whether all of its Crates have Sealed`; in a name
 * without the small words: `sum of Insured value over Loans`.
 */
function toWhat(model: Model, rule: CompiledRollUp, isName: boolean): SentencePart[] {
  const { aggregate, value, link } = rule;
  const entry = aggregateEntry(aggregate)!;
  const called = part('aggregate', entry.words);
  const children = part('route', childrenName(model, link));
  const its = isName ? '' : 'its ';
  const named = value ? part('value', fieldIn(model, value.owner, value.field).name) : null;
  if (entry.isQuestion && named)
    return [words('whether '), called, words(isName ? ' ' : ' of its '), children, words(' have '), named];
  return [
    ...[words(isName ? '' : 'the '), called, words(` ${entry.of ?? 'of '}`)],
    ...(named ? [named, words(` over ${its}`)] : [words(its)]),
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
  const what = toWhat(model, rule, true)
    .map(({ text }) => text)
    .join('');
  const where = rule.condition ? ` where ${describe(model, rule.condition, nameOf)}` : '';
  const name = `${typeIn(model, rule.writes.type).name} ${rule.target.name.toLowerCase()}: ${what}${where}`;
  return name.length > 120 ? `${name.slice(0, 119)}…` : name;
}

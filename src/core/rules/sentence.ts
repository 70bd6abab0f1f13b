import { describe, type NameOf } from '../expression';
import { fieldIn, type Model, typeIn } from '../model';
import { displayValue, isMoney, type Value } from '../values';
import { aggregateEntry, type CompiledRollUp } from './roll-up';

/** The name of the other end of a rule's link: what the parent calls these children (`Loans`). */
export const childrenName = (model: Model, { type, link }: CompiledRollUp['link']): string =>
  fieldIn(model, type, link).otherEnd ?? typeIn(model, type).plural;

function whenNoneWords(rule: CompiledRollUp): string {
  const value: Value = rule.whenNone;
  if (isMoney(value) && value.amount.isZero()) return '0';
  return displayValue(rule.target.type, value);
}

/** A roll-up as a sentence for people: what the interface shows in parts, as plain text. */
export function sentenceOf(model: Model, rule: CompiledRollUp, nameOf?: NameOf): string {
  const value = rule.value ? ` of ${fieldIn(model, rule.value.owner, rule.value.field).name} over` : ' of';
  const where = rule.condition ? ` where ${describe(model, rule.condition, nameOf)}` : '';
  const rounded = rule.rounding ? `, rounded ${rule.rounding.mode} to ${rule.rounding.places} places` : '';
  return (
    `On every ${typeIn(model, rule.writes.type).name}, keep ${rule.target.name} equal to the ${aggregateEntry(rule.aggregate)!.words}` +
    `${value} its ${childrenName(model, rule.link)}${where}${rounded}. When none count: ${whenNoneWords(rule)}. With the save.`
  );
}

/** The name proposed for a rule: `Insured total of an exhibition: sum of Insured value over Loans where Stage is Agreed`. */
export function proposedName(model: Model, rule: CompiledRollUp, nameOf?: NameOf): string {
  const value = rule.value ? `${fieldIn(model, rule.value.owner, rule.value.field).name} over ` : '';
  const where = rule.condition ? ` where ${describe(model, rule.condition, nameOf)}` : '';
  const name = `${typeIn(model, rule.writes.type).name} ${rule.target.name.toLowerCase()}: ${aggregateEntry(rule.aggregate)!.words} of ${value}${childrenName(model, rule.link)}${where}`;
  return name.length > 120 ? `${name.slice(0, 119)}…` : name;
}

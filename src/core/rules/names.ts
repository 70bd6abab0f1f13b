import { freeName } from '@/core/free-name';
import { fieldIn, type Model, typeIn } from '@/core/model';
import { byKind, firstIn } from '@/core/values';
import type { AnyCompiled, CompiledRule } from './rule';
import { partsOf } from './parts-of';
import type { CompiledRollUp, Share } from './roll-up/roll-up';

/** `Loans` → `loans`, but `VAT rates` as it stands. */
const inText = (name: string): string =>
  /^\p{Lu}\p{Lu}/u.test(name) ? name : name.charAt(0).toLowerCase() + name.slice(1);

const fieldsOf = (rule: CompiledRule): string => {
  const [first, ...more] = partsOf(rule).map(({ target }) => target.name);
  return [first, ...more.map(inText)].join(', ');
};

const fieldOf = (rule: CompiledRule): string => rule.target.name;
const manyOf = (model: Model, rule: CompiledRule): string => inText(typeIn(model, rule.writes.type).plural);

/** `Lent total`; where another rule is called so, or another type has a field of that name, `Lent total of institutions`. */
function keptNames(rule: CompiledRule, model: Model): readonly string[] {
  const name = fieldOf(rule);
  const isElsewhere = model.types.some(
    ({ key, fields }) =>
      key !== rule.writes.type && fields.some((field) => nameKey(field.name) === nameKey(name)),
  );
  return [...(isElsewhere ? [] : [name]), `${name} of ${manyOf(model, rule)}`];
}

/** `Coordinator of loans`; where another rule is called so with all the fields that it writes. */
const cascadeNames = (rule: CompiledRule, model: Model, which = ''): readonly string[] =>
  [fieldOf(rule), fieldsOf(rule)].map((fields) => `${fields} of ${which}${manyOf(model, rule)}`);

/** `Insured value by stage`: what is brought together apart for each option. */
function namesByOption(rule: CompiledRollUp, { by }: Share, model: Model): readonly string[] {
  const { value, type } = firstIn(rule.sources);
  const counted =
    value?.kind === 'field' ? fieldIn(model, value.owner, value.field).name : typeIn(model, type).plural;
  const name = `${counted} by ${inText(fieldIn(model, by.owner, by.field).name)}`;
  return [name, `${name} of ${manyOf(model, rule)}`];
}

/** Short names that a rule could go by, as one would say them, the best first. */
const NAMES = byKind<AnyCompiled, [model: Model], readonly string[]>({
  rollUp: (rule, model) => (rule.share ? namesByOption(rule, rule.share, model) : keptNames(rule, model)),
  formula: keptNames,
  linked: keptNames,
  keptCascade: (rule, model) => cascadeNames(rule, model),
  reactingCascade: (rule, model) =>
    cascadeNames(rule, model, rule.definition.moment === 'atCreation' ? 'new ' : ''),
  create: ({ definition: { type, makes } }, model) => [
    typeIn(model, makes).name,
    `${typeIn(model, makes).name} of ${inText(typeIn(model, type).plural)}`,
  ],
});

/** How names are compared: no two rules read the same. */
export const nameKey = (name: string): string => name.trim().normalize('NFC').toLowerCase();

/**
 * The name proposed for a rule: “Lent total”, “Coordinator of loans”, “Insurance line”. Others that there are (`taken`, by `nameKey`) it isn't: the next
 * of its names is, or the last of them with a number.
 */
export function proposedName(model: Model, rule: AnyCompiled, taken: ReadonlySet<string>): string {
  const names = NAMES(rule, model);
  const free = names.find((name) => !taken.has(nameKey(name)));
  if (free !== undefined) return free;
  const last = names.at(-1) ?? '';
  return freeName(
    (number) => (number === 1 ? last : `${last} ${number}`),
    (name) => taken.has(nameKey(name)),
  );
}

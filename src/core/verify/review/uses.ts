import { describe, type Expression, typeCondition } from '@/core/expression';
import { type Field, type Model, readModel, type RecordType, type SavedListDefinition } from '@/core/model';
import { compileRule, type Rule, type RuleState, sentenceOf } from '@/core/rules';
import type { Option } from '@/core/values';
import type { Expectation } from '@/core/verify/proof/proof';

/** Something that others may name. */
export type Named =
  | { readonly kind: 'type'; readonly type: string }
  | { readonly kind: 'field'; readonly type: string; readonly field: string }
  | { readonly kind: 'option'; readonly type: string; readonly field: string; readonly option: string }
  | { readonly kind: 'selection'; readonly selection: string }
  | { readonly kind: 'person'; readonly person: string };

/** Where something is used. */
export interface Use {
  readonly where: 'rule' | 'selection' | 'section' | 'list' | 'proof' | 'request';
  /** Of a rule, a list, a request or a proof its id; of others a key. */
  readonly id: string;
  readonly name: string;
  /** What it says there, or how it comes in. */
  readonly says: string;
}

/** All that may use something. */
export interface UsedBy {
  readonly rules: readonly (Rule & { readonly state: RuleState })[];
  readonly lists: readonly {
    readonly id: string;
    readonly name: string;
    readonly definition: SavedListDefinition;
  }[];
  readonly proofs: readonly {
    readonly id: string;
    readonly rule: string;
    readonly name: string;
    readonly people: readonly string[];
    readonly expectations: readonly Expectation[];
  }[];
  readonly requests: readonly {
    readonly id: string;
    readonly name: string;
    readonly rules: readonly string[];
  }[];
  readonly nameOf: (id: string) => string | undefined;
}

/** A name that nobody gives anything. */
const MARK = '\u2063used\u2063';

/**
 * Where something is named: by what says something else once it is called otherwise, so that whatever is told to people counts, and nothing is missed that
 * a sentence shows; fields also by what rules read and write.
 */
export function usesOf(model: Model, by: UsedBy, named: Named): readonly Use[] {
  const other = readModel(marked(model, named), model.settledDay);
  const otherName = (id: string) => (named.kind === 'person' && id === named.person ? MARK : by.nameOf(id));
  const says = (type: string, condition: Expression): readonly [string, string] | null => {
    const [one, two] = [typeCondition(model, type, condition), typeCondition(other, type, condition)];
    return one.ok && two.ok
      ? [describe(model, one.value, by.nameOf), describe(other, two.value, otherName)]
      : null;
  };
  const conditionUse = (type: string, condition: Expression | null | undefined): string | null => {
    const told = condition ? says(type, condition) : null;
    return told && told[0] !== told[1] ? told[0] : null;
  };
  const rules = rulesNaming(model, other, by, otherName, named);
  const using = new Set(rules.map(({ id }) => id));
  return [
    ...rules,
    ...(model.selections ?? []).flatMap(({ key, name, type, condition }): Use[] => {
      const told = conditionUse(type, condition);
      if (told !== null) return [{ where: 'selection', id: key, name, says: told }];
      return named.kind === 'type' && named.type === type
        ? [{ where: 'selection', id: key, name, says: 'of its records' }]
        : [];
    }),
    ...model.types.flatMap((type) =>
      sectionUses(type, named, (condition) => conditionUse(type.key, condition)),
    ),
    ...by.lists.flatMap(({ id, name, definition }): Use[] => {
      if (definition.kind === 'joined')
        return named.kind === 'selection' && definition.selections.includes(named.selection)
          ? [{ where: 'list', id, name, says: 'joins it with others' }]
          : [];
      const told = conditionUse(definition.type, definition.condition);
      const how = told ?? listUse(definition, named);
      return how === null ? [] : [{ where: 'list', id, name, says: how }];
    }),
    ...by.proofs.flatMap(({ id, name, rule, people, expectations }): Use[] => {
      const of = by.rules.find((one) => one.id === rule)?.name ?? '';
      const isExpected = expectations.some((one) => isOf(one, named));
      const isThere = named.kind === 'person' && people.includes(named.person);
      return isExpected || isThere
        ? [
            {
              where: 'proof',
              id,
              name,
              says: isExpected ? `expects something of it, for “${of}”` : `of “${of}”`,
            },
          ]
        : [];
    }),
    ...by.requests.flatMap(({ id, name, rules: own }): Use[] => {
      const names = rules.filter((rule) => own.includes(rule.id)).map((rule) => `“${rule.name}”`);
      return own.some((rule) => using.has(rule))
        ? [{ where: 'request', id, name, says: `by ${names.join(', ')}` }]
        : [];
    }),
  ];
}

function rulesNaming(
  model: Model,
  other: Model,
  { rules, nameOf }: UsedBy,
  otherName: UsedBy['nameOf'],
  named: Named,
): Use[] {
  return rules.flatMap((rule): Use[] => {
    const [is, would] = [compileRule(model, rule), compileRule(other, rule)];
    // One that doesn't fit the model says nothing.
    if (!is.ok || !would.ok) return [];
    const sentence = sentenceOf(model, is.rule, nameOf);
    const touches = [...is.rule.reads, is.rule.writes].some(
      ({ type, field }) =>
        (named.kind === 'type' && type === named.type) ||
        (named.kind === 'field' && type === named.type && field === named.field),
    );
    return touches || sentence !== sentenceOf(other, would.rule, otherName)
      ? [{ where: 'rule', id: rule.id, name: rule.name, says: sentence }]
      : [];
  });
}

function sectionUses(
  { key, name: typeName, sections = [] }: RecordType,
  named: Named,
  conditionUse: (condition: Expression | undefined) => string | null,
): Use[] {
  return sections.flatMap(({ name, fields, lists = [], condition }): Use[] => {
    const holds =
      named.kind === 'field' &&
      ((named.type === key && fields.includes(named.field)) ||
        lists.includes(`${named.type}.${named.field}`));
    const told = conditionUse(condition) ?? (holds ? 'stands in it' : null);
    return told === null
      ? []
      : [{ where: 'section', id: `${key} ${name}`, name: `${name} of ${typeName}`, says: told }];
  });
}

function listUse(
  { type, columns, sort }: Extract<SavedListDefinition, { readonly kind: 'list' }>,
  named: Named,
): string | null {
  if (named.kind === 'type') return named.type === type ? 'of its records' : null;
  if (named.kind !== 'field' || named.type !== type) return null;
  if (columns.includes(named.field)) return 'has it as a column';
  return sort?.replace(/^-/, '') === named.field ? 'is put in order by it' : null;
}

const isOf = (expectation: Expectation, named: Named): boolean =>
  (named.kind === 'field' &&
    'field' in expectation &&
    'type' in expectation &&
    expectation.type === named.type &&
    expectation.field === named.field) ||
  (named.kind === 'type' && 'type' in expectation && expectation.type === named.type);

function marked(model: Model, named: Named): Model {
  switch (named.kind) {
    case 'person':
      return model;
    case 'selection':
      return {
        ...model,
        selections: (model.selections ?? []).map((one) =>
          one.key === named.selection ? { ...one, name: MARK } : one,
        ),
      };
    case 'type':
      return withTypes(model, named.type, (type) => ({ ...type, name: MARK, plural: MARK }));
    case 'field':
      return withField(model, named, (field) => ({
        ...{ ...field, name: MARK },
        ...(field.otherEnd === undefined ? {} : { otherEnd: MARK }),
      }));
    case 'option':
      return withField(model, named, (field) =>
        field.type.kind === 'choice' || field.type.kind === 'choices'
          ? { ...field, type: { ...field.type, options: markedOptions(field.type.options, named.option) } }
          : field,
      );
  }
}

const markedOptions = (options: readonly Option[], key: string): Option[] =>
  options.map((option) => (option.key === key ? { ...option, name: MARK } : option));

const withTypes = (model: Model, key: string, change: (type: RecordType) => RecordType): Model => ({
  ...model,
  types: model.types.map((type) => (type.key === key ? change(type) : type)),
});

const withField = (
  model: Model,
  { type, field }: { readonly type: string; readonly field: string },
  change: (field: Field) => Field,
): Model =>
  withTypes(model, type, (one) => ({
    ...one,
    fields: one.fields.map((own) => (own.key === field ? change(own) : own)),
  }));

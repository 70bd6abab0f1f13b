import { describe, typeCondition } from '@/core/expression';
import { kindWords, type Model } from '@/core/model';
import { compileRule, type Rule, type RuleState, sentenceOf, targetsOf } from '@/core/rules';

/** A rule as a dictionary takes it. */
export interface DictionaryRule extends Rule {
  readonly state: RuleState;
  readonly note: string;
  readonly tags: readonly string[];
}

/** All that a model and its rules say, in words, to be printed, kept or handed to others. */
export interface Dictionary {
  readonly types: readonly {
    readonly name: string;
    readonly plural: string;
    readonly fields: readonly DictionaryField[];
    readonly selections: readonly { readonly name: string; readonly says: string }[];
  }[];
  readonly rules: readonly {
    readonly name: string;
    readonly type: string;
    readonly kind: Rule['definition']['kind'];
    readonly state: RuleState;
    readonly sentence: string;
    readonly note: string;
    readonly tags: readonly string[];
  }[];
}

export interface DictionaryField {
  readonly name: string;
  /** `number, 2 places, kg` */
  readonly kind: string;
  /** Of a choice: its options by their names. */
  readonly options: readonly string[];
  readonly isRequired: boolean;
  readonly isUnique: boolean;
  readonly help: string;
  /** Names of the live rules that write it. */
  readonly writtenBy: readonly string[];
}

/** Types in the order of the model, rules by type, then by name as they are given. A rule that doesn't fit the model says so. */
export function dictionaryOf(
  model: Model,
  rules: readonly DictionaryRule[],
  nameOf: (id: string) => string | undefined,
): Dictionary {
  const live = rules.filter(({ state }) => state === 'live');
  const writers = (type: string, field: string): string[] =>
    live
      .filter(({ definition }) =>
        targetsOf(model, definition).some((ref) => ref.type === type && ref.field === field),
      )
      .map(({ name }) => name);
  return {
    types: model.types.map(({ key, name, plural, fields }) => ({
      ...{ name, plural },
      fields: fields.map((field) => ({
        ...{ name: field.name, kind: kindWords(model, field.type), help: field.help ?? '' },
        options:
          field.type.kind === 'choice' || field.type.kind === 'choices'
            ? field.type.options.map((option) => option.name)
            : [],
        ...{ isRequired: field.required === true, isUnique: field.unique === true },
        writtenBy: writers(key, field.key),
      })),
      selections: (model.selections ?? [])
        .filter(({ type }) => type === key)
        .map((selection) => {
          const typed = typeCondition(model, key, selection.condition);
          return {
            name: selection.name,
            says: typed.ok ? describe(model, typed.value, nameOf) : typed.problem.message,
          };
        }),
    })),
    rules: model.types.flatMap((type) =>
      rules
        .filter(({ definition }) => definition.type === type.key)
        .map((rule) => {
          const { name, state, note, tags, definition } = rule;
          const compiled = compileRule(model, rule);
          return {
            ...{ name, state, note, tags, type: type.name, kind: definition.kind },
            sentence: compiled.ok
              ? sentenceOf(model, compiled.rule, nameOf)
              : `It doesn’t fit the model: ${compiled.problems[0]?.message ?? ''}`,
          };
        }),
    ),
  };
}

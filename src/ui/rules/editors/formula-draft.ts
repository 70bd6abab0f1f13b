import type { Expression } from '@/core/expression';
import type { Model, Pace } from '@/core/model';
import { defaultsFor, type Formula, type Limits, type RuleDefinition } from '@/core/rules';
import type { Rounding } from '@/core/values';
import { cascadeDraft, type CascadeDraft, cascadeOf, NEW_CASCADE } from './cascade-draft';
import { createDraft, type CreateDraft, createOf, NEW_CREATE } from './create-draft';
import { linkDraft, type LinkDraft, linkOf, NEW_LINK } from './link-draft';
import { definitionOf as rollUpOf, draftOf as rollUpDraft, NEW_DRAFT, type RuleDraft } from './roll-up-draft';

/** A formula while it is being written. */
export interface FormulaDraft {
  readonly type: string | null;
  readonly target: string | null;
  /** FEEL text. */
  readonly text: string;
  readonly appliesWhen: Expression | null;
  /** FEEL text of what stands where it doesn't apply; blank for empty. */
  readonly otherwise: string;
  readonly rounding: Rounding | null;
  readonly limits: Limits | null;
  readonly pace: Pace;
}

export const NEW_FORMULA: FormulaDraft = {
  ...{ type: null, target: null, text: '', appliesWhen: null, otherwise: '', rounding: null, limits: null },
  pace: 'withTheSave',
};

/** A target that is chosen; a new formula begins with the workspace's defaults for it. */
export function withTarget(model: Model, draft: FormulaDraft, target: string): FormulaDraft {
  const field = draft.type === null ? undefined : model.field(draft.type, target);
  const begins = draft.target === null && field ? defaultsFor(model.ruleDefaults, field.type) : {};
  return { ...draft, target, ...begins };
}

/** A rule of any kind while it is being written. */
export type Draft =
  | { readonly kind: 'rollUp'; readonly of: RuleDraft }
  | { readonly kind: 'formula'; readonly of: FormulaDraft }
  | { readonly kind: 'cascade'; readonly of: CascadeDraft }
  | { readonly kind: 'create'; readonly of: CreateDraft }
  | { readonly kind: 'link'; readonly of: LinkDraft };

export const newDraft = (kind: Draft['kind']): Draft =>
  kind === 'formula'
    ? { kind, of: NEW_FORMULA }
    : kind === 'cascade'
      ? { kind, of: NEW_CASCADE }
      : kind === 'create'
        ? { kind, of: NEW_CREATE }
        : kind === 'link'
          ? { kind, of: NEW_LINK }
          : { kind, of: NEW_DRAFT };

const textOf = (expression: Expression | null): string =>
  expression?.kind === 'feel' ? expression.text : '';

export const draftOf = (definition: RuleDefinition): Draft =>
  definition.kind === 'formula'
    ? {
        kind: 'formula',
        of: {
          ...{ type: definition.type, target: definition.target, text: textOf(definition.value) },
          ...{ appliesWhen: definition.appliesWhen, otherwise: textOf(definition.otherwise) },
          ...{ rounding: definition.rounding, limits: definition.limits ?? null },
          pace: definition.pace,
        },
      }
    : definition.kind === 'cascade'
      ? { kind: 'cascade', of: cascadeDraft(definition) }
      : definition.kind === 'create'
        ? { kind: 'create', of: createDraft(definition) }
        : definition.kind === 'link'
          ? { kind: 'link', of: linkDraft(definition) }
          : { kind: 'rollUp', of: rollUpDraft(definition) };

function formulaOf(draft: FormulaDraft): Formula | null {
  const { type, target, text, appliesWhen, otherwise, rounding, limits, pace } = draft;
  if (!type || !target || text.trim() === '') return null;
  return {
    ...{
      kind: 'formula',
      type,
      target,
      value: { kind: 'feel', text },
      appliesWhen,
      rounding,
      pace,
    },
    ...(limits && (limits.least || limits.most) ? { limits } : {}),
    otherwise: appliesWhen && otherwise.trim() !== '' ? { kind: 'feel', text: otherwise } : null,
  };
}

/** The definition that a draft stands for, or `null` while a part is missing. */
export const definitionOf = (draft: Draft): RuleDefinition | null =>
  draft.kind === 'formula'
    ? formulaOf(draft.of)
    : draft.kind === 'cascade'
      ? cascadeOf(draft.of)
      : draft.kind === 'create'
        ? createOf(draft.of)
        : draft.kind === 'link'
          ? linkOf(draft.of)
          : rollUpOf(draft.of);

import type { RuleDefinition } from '@/core/rules';
import { byKind } from '@/core/values';
import { cascadeDraft, type CascadeDraft, cascadeOf, NEW_CASCADE } from './cascade-draft';
import { createDraft, type CreateDraft, createOf, NEW_CREATE } from './create-draft';
import { formulaDraft, type FormulaDraft, formulaOf, NEW_FORMULA } from './formula-draft';
import { linkDraft, type LinkDraft, linkOf, NEW_LINK } from './link-draft';
import { definitionOf as rollUpOf, draftOf as rollUpDraft, NEW_DRAFT, type RuleDraft } from './roll-up-draft';

/** A rule of any kind while it is being written. */
export type Draft =
  | { readonly kind: 'rollUp'; readonly of: RuleDraft }
  | { readonly kind: 'formula'; readonly of: FormulaDraft }
  | { readonly kind: 'cascade'; readonly of: CascadeDraft }
  | { readonly kind: 'create'; readonly of: CreateDraft }
  | { readonly kind: 'link'; readonly of: LinkDraft };

const NEW = {
  rollUp: { kind: 'rollUp', of: NEW_DRAFT },
  formula: { kind: 'formula', of: NEW_FORMULA },
  cascade: { kind: 'cascade', of: NEW_CASCADE },
  create: { kind: 'create', of: NEW_CREATE },
  link: { kind: 'link', of: NEW_LINK },
} as const satisfies { readonly [K in Draft['kind']]: Extract<Draft, { readonly kind: K }> };

export const newDraft = (kind: Draft['kind']): Draft => NEW[kind];

/** A draft that was put away: parts that it didn't have yet are as in a new one. Nothing of it is read before it is shown. */
export const wholeDraft = (stored: { readonly kind: Draft['kind']; readonly of: object }): Draft =>
  ({ kind: stored.kind, of: { ...NEW[stored.kind].of, ...stored.of } }) as Draft;

export const draftOf = byKind<RuleDefinition, [], Draft>({
  rollUp: (definition) => ({ kind: 'rollUp', of: rollUpDraft(definition) }),
  formula: (definition) => ({ kind: 'formula', of: formulaDraft(definition) }),
  cascade: (definition) => ({ kind: 'cascade', of: cascadeDraft(definition) }),
  create: (definition) => ({ kind: 'create', of: createDraft(definition) }),
  link: (definition) => ({ kind: 'link', of: linkDraft(definition) }),
});

/** The definition that a draft stands for, or `null` while a part is missing. */
export const definitionOf = byKind<Draft, [], RuleDefinition | null>({
  rollUp: ({ of }) => rollUpOf(of),
  formula: ({ of }) => formulaOf(of),
  cascade: ({ of }) => cascadeOf(of),
  create: ({ of }) => createOf(of),
  link: ({ of }) => linkOf(of),
});

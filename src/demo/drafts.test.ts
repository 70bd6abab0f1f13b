import type { RuleDefinition } from '@/core/rules';
import { definitionOf, draftOf, newDraft } from '@/ui/rules/drafts/drafts';
import { demoRules } from './proofs';

/** What is left out means the same as none. */
const asMeant = (definition: RuleDefinition): RuleDefinition =>
  definition.kind === 'rollUp' && definition.also?.length === 0
    ? { ...definition, also: undefined }
    : definition;

test.each(demoRules().map((rule) => [rule.name, rule.definition] as const))(
  'opened in its editor and put down again it says the same: %s',
  (_, definition) => {
    expect(definitionOf(draftOf(definition))).toEqual(asMeant(definition));
  },
);

test.each(['rollUp', 'formula', 'cascade', 'create', 'link'] as const)(
  'a new %s stands for nothing yet',
  (kind) => {
    expect(newDraft(kind).kind).toBe(kind);
    expect(definitionOf(newDraft(kind))).toBeNull();
  },
);

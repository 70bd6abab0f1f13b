import type { RuleDefinition } from '@/core/rules';

/** What kinds of rule are called, one of each. */
export const KIND_OF_RULE = {
  rollUp: 'Roll-up',
  formula: 'Formula',
  cascade: 'Cascade',
  create: 'Create rule',
  link: 'Link rule',
} as const satisfies Readonly<Record<RuleDefinition['kind'], string>>;

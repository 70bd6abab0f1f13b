import { byKind } from '@/core/values';
import type { CompiledRule } from './rule';

/** A rule that writes several fields, as one rule for each of them: each stands for itself in a plan. */
export const partsOf = byKind<CompiledRule, [], readonly CompiledRule[]>({
  rollUp: (rule) => [rule, ...rule.together],
  formula: (rule) => [rule],
  keptCascade: (rule) => [rule, ...rule.parts],
  reactingCascade: (rule) => [rule, ...rule.parts],
  linked: (rule) => [rule],
});

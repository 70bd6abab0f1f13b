import { lastIn } from '@/core/values';
import type { RuleDefinition } from '@/core/rules';
import type { Variant } from './variants';

/** What sort of edge a case lies on. */
export type Edge =
  | 'limit'
  | 'leftOut'
  | 'noneCount'
  | 'twice'
  | 'deleted'
  | 'moved'
  | 'emptied'
  | 'nothingBeneath'
  | 'justOne'
  | 'emptyValue'
  | 'several'
  | 'other';

export const EDGE_WORDS: Readonly<Record<Edge, string>> = {
  limit: 'On the limit',
  leftOut: 'What the condition asks',
  noneCount: 'None counts',
  twice: 'Reached twice',
  deleted: 'One is deleted',
  moved: 'One moves',
  emptied: 'A value is emptied',
  nothingBeneath: 'Nothing beneath it',
  justOne: 'Just one',
  emptyValue: 'An empty value',
  several: 'Several come together',
  other: 'What it writes',
};

/** The edge on which a rule and its variant part. */
export function edgeOf(definition: RuleDefinition, variant: Variant): Edge {
  if (variant.forgets)
    return { deletions: 'deleted', moves: 'moved', clearing: 'emptied' }[variant.forgets] as Edge;
  for (const path of pathsApart(definition, variant.definition)) {
    const keys = path.split('.');
    const last = lastIn(keys);
    if (last === 'whenNone') return 'noneCount';
    if (last === 'isEveryWay') return 'twice';
    if (last === 'aggregate') return 'several';
    if (!keys.some((key) => ['condition', 'appliesWhen', 'where', 'tests'].includes(key))) continue;
    const isLimit = keys.includes('right') || (last === 'operator' && keys.length > 1);
    return isLimit && isOrdered(definition, keys) ? 'limit' : 'leftOut';
  }
  return 'other';
}

/** Where two definitions are unlike: the paths of their keys. */
function pathsApart(one: unknown, other: unknown, at = ''): string[] {
  if (JSON.stringify(one) === JSON.stringify(other)) return [];
  if (typeof one !== 'object' || typeof other !== 'object' || one === null || other === null) return [at];
  if ((one as { kind?: unknown }).kind !== (other as { kind?: unknown }).kind) return [at];
  const keys = new Set([...Object.keys(one), ...Object.keys(other)]);
  return [...keys].flatMap((key) =>
    pathsApart(
      (one as Record<string, unknown>)[key],
      (other as Record<string, unknown>)[key],
      at === '' ? key : `${at}.${key}`,
    ),
  );
}

/** Whether the test at a path compares by order: only that has a limit. */
function isOrdered(definition: RuleDefinition, keys: readonly string[]): boolean {
  let node: unknown = definition;
  for (const key of keys) {
    if (typeof node !== 'object' || node === null) return false;
    const { kind, operator } = node as { kind?: unknown; operator?: unknown };
    if (kind === 'compare' && operator !== '=' && operator !== '!=') return true;
    node = (node as Record<string, unknown>)[key];
  }
  return false;
}

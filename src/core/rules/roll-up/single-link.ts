import { firstIn } from '@/core/values';
import { isAllTheWay, type LinkRef } from '@/core/model';
import { isAccumulated } from './accumulate';
import type { CompiledRule } from '@/core/rules/rule';

/**
 * The link of a rule that brings together the children over one link and nothing else, but for what the record itself adds to an amount,
 * or has in its place: rules over the same link can be worked out by one pass over its children. `null` for any other.
 */
export function singleLink(rule: CompiledRule): LinkRef | null {
  if (rule.kind !== 'rollUp') return null;
  const [source, ...others] = rule.sources;
  const isOne =
    others.length === 0 && source!.route.length === 1 && !isAllTheWay(source!.route[0]) && !source!.once;
  return isOne && (!rule.own.adds || isAccumulated(rule)) ? firstIn(source!.route) : null;
}

/** The same where there is nothing else to it: no order, and nothing of the record itself. */
export function groupableLink(rule: CompiledRule): LinkRef | null {
  if (rule.kind !== 'rollUp' || rule.aggregate === 'joined' || firstIn(rule.sources).order.length > 0)
    return null;
  return Object.values(rule.own).some((field) => field !== null) ? null : singleLink(rule);
}

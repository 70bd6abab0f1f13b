import { type Model, openLinkOf } from '@/core/model';
import type { RollUp } from './roll-up';

/** The same rule for another type of parent that an open link may name. */
export interface OtherParent {
  readonly type: string;
  /** `null` where the type lacks fields that the rule keeps or reads on its parent: `missing` names them by their keys. */
  readonly definition: RollUp | null;
  readonly missing: readonly string[];
}

/**
 * A rule over one of the links of an open link, as it is for each of the other types that may be named there: on their fields of the same
 * keys, over their link. Nothing for a rule over any other link, or one that brings further records in.
 */
export function forOtherParents(model: Model, rule: RollUp): readonly OtherParent[] {
  const [first] = rule.route;
  if (first?.direction !== 'down' || (rule.also ?? []).length > 0) return [];
  const child = model.type(first.type);
  const open = child && openLinkOf(child, first.link);
  if (!open) return [];
  return open.links.flatMap((link): OtherParent[] => {
    const parent = model.linksFrom(first.type).find((one) => one.link === link)?.parent;
    if (link === first.link || parent === undefined) return [];
    const further = rule.perOption?.others ?? rule.together ?? [];
    const needed = [rule.target, ...further.map(({ target }) => target), ...ownFields(rule)];
    const missing = needed.filter((key) => !model.field(parent, key));
    if (missing.length > 0) return [{ type: parent, definition: null, missing }];
    const renamed = overLink(rule, first.link, link) as RollUp;
    const route = [{ ...first, link }, ...rule.route.slice(1)];
    return [{ type: parent, definition: { ...renamed, type: parent, route }, missing: [] }];
  });
}

const ownFields = ({ own = {} }: RollUp): string[] =>
  Object.values(own).flatMap((field) => (field ? [field.route[0] ?? field.field] : []));

/** What is read on the parent, over the link to it, is read over the other link. */
export function overLink(part: unknown, from: string, to: string): unknown {
  if (Array.isArray(part)) return part.map((one) => overLink(one, from, to));
  if (typeof part !== 'object' || part === null) return part;
  return Object.fromEntries(
    Object.entries(part).map(([key, value]) => [
      key,
      key === 'route' && Array.isArray(value) && value[0] === from
        ? [to, ...(value as unknown[]).slice(1)]
        : overLink(value, from, to),
    ]),
  );
}

import type { Model, Step } from '@/core/model';
import { compileRule } from './compile';
import type { Problem } from '@/core/values';
import { overLink } from './roll-up/other-parents';
import type { RuleDefinition } from './rule';

/** A rule as it would be on another type. */
export interface OnType {
  readonly definition: RuleDefinition;
  /** What doesn't fit there; nothing where it can stand as it is. */
  readonly problems: readonly Problem[];
}

/**
 * A rule as it would be on another type: over the link that leads from there to the same records, where there is exactly one, and on its
 * fields of the same keys. What doesn't fit then stays as it is and is told.
 */
export function ruleOnType(model: Model, rule: RuleDefinition, type: string): OnType {
  const moved = movedTo(model, rule, type);
  const compiled = compileRule(model, { id: 'copy', version: '', name: '', definition: moved });
  return { definition: moved, problems: compiled.ok ? [] : compiled.problems };
}

function movedTo(model: Model, rule: RuleDefinition, type: string): RuleDefinition {
  if (rule.kind !== 'rollUp' && rule.kind !== 'cascade') return { ...rule, type };
  const [first] = rule.route;
  const link = first && linkFrom(model, rule.type, first, type);
  const moved = {
    // What is read beyond the link is read over the other one.
    ...(link && first.direction === 'down' ? (overLink(rule, first.link, link) as typeof rule) : rule),
    ...{ type, route: overStep(model, rule.type, rule.route, type) },
  };
  if (moved.kind !== 'rollUp' || !moved.also) return moved;
  const also = moved.also.map((one) => ({ ...one, route: overStep(model, rule.type, one.route, type) }));
  return { ...moved, also };
}

function overStep(model: Model, from: string, route: readonly Step[], to: string): readonly Step[] {
  const [first, ...rest] = route;
  const link = first && linkFrom(model, from, first, to);
  return link ? [{ ...first, link }, ...rest] : route;
}

/** The link between a type and the records that a step leads to from another: the same one, or the only one there is. */
function linkFrom(model: Model, from: string, step: Step, to: string): string | null {
  const target =
    step.direction === 'up' ? model.linksFrom(from).find(({ link }) => link === step.link)?.parent : to;
  const links = model
    .linksFrom(step.direction === 'up' ? to : step.type)
    .filter(({ parent }) => parent === target)
    .map(({ link }) => link);
  if (links.includes(step.link)) return step.link;
  return links.length === 1 ? (links[0] ?? null) : null;
}

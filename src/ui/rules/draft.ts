import type { Expression } from '@/core/expression';
import { follow, type Model } from '@/core/model';
import { type Aggregate, resultOffered, type RollUp, targetsOffered, valuesOffered } from '@/core/rules';
import type { Rounding, ValueType, WireValue } from '@/core/values';

/** A roll-up while its sentence is being written: parts that aren't chosen yet are `null`. */
export interface RuleDraft {
  readonly type: string | null;
  readonly target: string | null;
  readonly aggregate: Aggregate | null;
  readonly route: { readonly type: string; readonly link: string } | null;
  /** Key of the child's field that is brought together. */
  readonly value: string | null;
  readonly condition: Expression | null;
  readonly whenNone: WireValue;
  readonly rounding: Rounding | null;
}

export const NEW_DRAFT: RuleDraft = {
  type: null,
  target: null,
  aggregate: null,
  route: null,
  value: null,
  condition: null,
  whenNone: null,
  rounding: null,
};

export function draftOf({
  type,
  target,
  aggregate,
  route,
  value,
  condition,
  whenNone,
  rounding,
}: RollUp): RuleDraft {
  const [step] = route;
  return {
    type,
    target,
    aggregate,
    route: step ? { type: step.type, link: step.link } : null,
    value: value?.field ?? null,
    condition,
    whenNone,
    rounding,
  };
}

/** The definition that a draft stands for, or `null` while a part is missing. */
export function definitionOf(draft: RuleDraft): RollUp | null {
  const { type, target, aggregate, route, value, condition, whenNone, rounding } = draft;
  if (!type || !target || !aggregate || !route || (aggregate !== 'count' && !value)) return null;
  return {
    ...{ kind: 'rollUp', type, target, aggregate, whenNone, rounding, condition, pace: 'withTheSave' },
    route: [{ direction: 'down', ...route }],
    value: aggregate === 'count' || !value ? null : { kind: 'field', route: [], field: value },
  };
}

const typeOf = (model: Model, type: string | null, field: string | null): ValueType | null =>
  type && field ? (model.field(type, field)?.type ?? null) : null;

/** What the aggregate yields so far. */
export const resultOf = (model: Model, draft: RuleDraft): ValueType | null =>
  draft.aggregate
    ? resultOffered(draft.aggregate, typeOf(model, draft.route?.type ?? null, draft.value))
    : null;

/** A count or a sum of nothing is 0 to begin with; anything else is empty. */
function emptyCase(model: Model, draft: RuleDraft): WireValue {
  const target = typeOf(model, draft.type, draft.target);
  if (!target || !draft.aggregate || !['count', 'countDistinct', 'sum'].includes(draft.aggregate))
    return null;
  if (target.kind === 'money') return { amount: '0', currency: target.currency };
  return target.kind === 'number' ? '0' : null;
}

const isNotKept = () => false;

/** Lets go of parts that no longer fit: a value that the aggregate doesn't take, a target of another kind. */
function settle(model: Model, draft: RuleDraft): RuleDraft {
  const fitting =
    draft.route && draft.aggregate ? valuesOffered(model, draft.route.type, draft.aggregate) : null;
  const value =
    draft.aggregate === 'count' || (fitting && !fitting.some((field) => field.key === draft.value))
      ? null
      : draft.value;
  const valued = { ...draft, value };
  const targets = draft.type ? targetsOffered(model, draft.type, resultOf(model, valued), isNotKept) : [];
  const target = targets.some((field) => field.key === draft.target) ? draft.target : null;
  const isNumeric = ['number', 'money'].includes(typeOf(model, draft.type, target)?.kind ?? '');
  const settled = { ...valued, target, rounding: isNumeric ? draft.rounding : null };
  return target === draft.target && draft.aggregate
    ? settled
    : { ...settled, whenNone: emptyCase(model, settled) };
}

/** Changes one part of the sentence; parts that hang on it and no longer fit are let go. */
export function changePart<K extends keyof RuleDraft>(
  model: Model,
  draft: RuleDraft,
  part: K,
  chosen: RuleDraft[K],
): RuleDraft {
  const changed = { ...draft, [part]: chosen };
  if (part === 'whenNone' || part === 'condition' || part === 'rounding') return changed;
  if (part === 'type') return { ...NEW_DRAFT, type: changed.type, aggregate: draft.aggregate };
  const settled = settle(
    model,
    part === 'route' && changed.route?.type !== draft.route?.type ? { ...changed, condition: null } : changed,
  );
  return part === 'aggregate' || part === 'target'
    ? { ...settled, whenNone: emptyCase(model, settled) }
    : settled;
}

/** Records up the links from a type, for fields that a condition may read: the route, and what it is called. */
export interface RouteUp {
  readonly route: readonly string[];
  readonly type: string;
  readonly name: string;
}

const MOST_STEPS = 2;

export function routesUp(model: Model, type: string, route: readonly string[] = []): RouteUp[] {
  const at = follow(model, type, route);
  if (!at || route.length >= MOST_STEPS) return [];
  return model.linksFrom(at).flatMap(({ link, parent, field }) => {
    const next = [...route, link];
    const name = [
      ...route.map((step, index) => model.field(follow(model, type, route.slice(0, index))!, step)!.name),
      field.name,
    ].join('’s ');
    return [{ route: next, type: parent, name }, ...routesUp(model, type, next)];
  });
}

import { type Field, type Model, type Step, stepDown, typeIn } from '@/core/model';
import { conversion, type ValueType } from '@/core/values';
import { type Aggregate, aggregateEntry } from './roll-up';
import { splitRoute } from './sources';

/** A way down from a type to records that can be brought together. */
export interface RouteOffer {
  readonly route: readonly Step[];
  /** The type of the records at its end: over a bridge those at the far end. */
  readonly type: string;
}

const MOST_DOWN = 3;

/**
 * Ways down from a type: over one link, over several, and over a child's other links to what it joins the record with. Those over one
 * link come first.
 */
export function routesOffered(model: Model, type: string): RouteOffer[] {
  const offers: RouteOffer[] = [];
  const go = (at: string, route: readonly Step[], types: readonly string[]) => {
    for (const link of model.linksTo(at)) {
      const down = [...route, stepDown(link)];
      offers.push({ route: down, type: link.type });
      for (const up of model.linksFrom(link.type))
        if (up.link !== link.link && (typeIn(model, link.type).bridge || up.parent === type))
          offers.push({ route: [...down, { direction: 'up', link: up.link }], type: up.parent });
      // A type is gone into once, so that links in a circle end.
      if (down.length < MOST_DOWN && !types.includes(link.type)) go(link.type, down, [...types, link.type]);
    }
  };
  go(type, [], [type]);
  return offers.sort((a, b) => a.route.length - b.route.length);
}

/** The records that a route brings together, on which values and conditions are read; `null` where it isn't a route down. */
export const membersOffered = (
  model: Model,
  type: string,
  route: readonly Step[],
): { readonly type: string; readonly up: readonly string[] } | null => splitRoute(model, type, route);

/**
 * Whether the aggregate takes a field as its value. A count takes only what the rule itself gives further down (`isTarget`), which other
 * aggregates take where it can be brought together again.
 */
export function isValueOffered(aggregate: Aggregate, { type }: Field, isTarget: boolean): boolean {
  const entry = aggregateEntry(aggregate);
  if (isTarget && !entry.isOfItself) return false;
  return entry.kinds.length === 0 ? isTarget : entry.kinds.includes(type.kind);
}

/** What an aggregate over a value yields, or `null` while the value isn't chosen or isn't taken. */
export function resultOffered(aggregate: Aggregate, value: ValueType | null): ValueType | null {
  const entry = aggregateEntry(aggregate);
  if (entry.kinds.length === 0) return entry.resultType(null);
  return value && entry.kinds.includes(value.kind) ? entry.resultType(value) : null;
}

/** Fields that a formula may keep: not required, not unique, not a link, and kept by no other rule (`isKept` tells). */
export const targetsOpen = (model: Model, type: string, isKept: (field: string) => boolean): Field[] =>
  model
    .type(type)
    ?.fields.filter(
      ({ key, required, unique, type: { kind } }) =>
        !required && !unique && kind !== 'link' && kind !== 'serial' && !isKept(key),
    ) ?? [];

/** Kinds of fields that some aggregate can be written into. */
const TAKING: readonly string[] = [
  ...[
    'number',
    'money',
    'rating',
    'date',
    'dateTime',
    'yesNo',
    'choice',
    'text',
    'longText',
    'person',
    'anyMoney',
  ],
];

/**
 * Fields of the parent into which the result can be written: not required, not unique, not a link, of a kind that fits once the result
 * is known, and kept by no other rule (`isKept` tells).
 */
export function targetsOffered(
  model: Model,
  type: string,
  result: ValueType | null,
  isKept: (field: string) => boolean,
): Field[] {
  const fits = (field: Field) =>
    result ? conversion(result, field.type) !== null : TAKING.includes(field.type.kind);
  return (
    model
      .type(type)
      ?.fields.filter((field) => !field.required && !field.unique && fits(field) && !isKept(field.key)) ?? []
  );
}

import { kindWords } from '@/core/expression';
import { type Field, isAllTheWay, type Model, selfLinksOf, type Step, stepDown, typeIn } from '@/core/model';
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
/** Where the first goes all the way. */
const MOST_ALL_DOWN = 2;

/**
 * Ways down from a type: over one link, over several, and over a child's other links to what it joins the record with. Those over one
 * link come first.
 */
export function routesOffered(model: Model, type: string): RouteOffer[] {
  const offers: RouteOffer[] = [];
  const go = (at: string, route: readonly Step[], types: readonly string[]) => {
    for (const link of model.linksTo(at)) {
      if (isAllTheWay(route[0]) && link.type === type) continue;
      const down = [...route, stepDown(link)];
      offers.push({ route: down, type: link.type });
      for (const up of model.linksFrom(link.type))
        if (up.link !== link.link && (typeIn(model, link.type).bridge || up.parent === type))
          offers.push({ route: [...down, { direction: 'up', link: up.link }], type: up.parent });
      // A type is gone into once, so that links in a circle end.
      const most = isAllTheWay(route[0]) ? MOST_ALL_DOWN : MOST_DOWN;
      if (down.length < most && !types.includes(link.type)) go(link.type, down, [...types, link.type]);
    }
  };
  go(type, [], [type]);
  for (const link of selfLinksOf(model, type)) {
    const all: Step = { ...stepDown(link), isAllTheWay: true };
    offers.push({ route: [all], type });
    go(type, [all], [type]);
  }
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

/** The name of the rule that keeps a field already; nothing where none does. */
export type KeptBy = (field: string) => string | undefined;

/** A field, and why it can't be chosen in a part of a sentence; `null` where it can. */
export interface OfferedField {
  readonly field: Field;
  readonly why: string | null;
}

/** Why no rule of this kind keeps a field, in a few words; `null` where one may. */
export function whyClosed({ key, required, unique, type: { kind } }: Field, keptBy: KeptBy): string | null {
  const keeper = keptBy(key);
  if (keeper !== undefined) return `kept by “${keeper}”`;
  if (required) return 'required: people enter it';
  if (unique) return 'unique: what a rule gives may come twice';
  if (kind === 'link') return 'a link: a link rule fills it';
  return kind === 'serial' ? 'given by Oikon' : null;
}

/** Fields that a formula may keep: not required, not unique, not a link, and kept by no other rule (`isKept` tells). */
export const targetsOpen = (model: Model, type: string, isKept: (field: string) => boolean): Field[] =>
  model
    .type(type)
    ?.fields.filter((field) => whyClosed(field, (key) => (isKept(key) ? key : undefined)) === null) ?? [];

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

/** Why a result can't be written into a field, in a few words; `null` where it can, also while it isn't known what it is. */
export function whyUnfit(result: ValueType | null, { type }: Field): string | null {
  if (!result) return TAKING.includes(type.kind) ? null : `${kindWords(type)}: no roll-up gives that`;
  if (conversion(result, type)) return null;
  return unlikeWords(result, type);
}

/** A field's kind beside that of a result that it doesn't take. */
export const unlikeWords = (result: ValueType, into: ValueType): string =>
  `${kindWords(into)}; the result is ${kindWords(result)}`;

/**
 * All fields of the parent, with why the result can't be written into them: required, unique, a link, kept by another rule, or of a kind or unit that
 * doesn't fit once the result is known.
 */
export const targetsWithWhy = (
  model: Model,
  type: string,
  result: ValueType | null,
  keptBy: KeptBy,
): OfferedField[] =>
  (model.type(type)?.fields ?? []).map((field) => ({
    field,
    why: whyClosed(field, keptBy) ?? whyUnfit(result, field),
  }));

/** Those of them that can be chosen. */
export const targetsOffered = (
  model: Model,
  type: string,
  result: ValueType | null,
  isKept: (field: string) => boolean,
): Field[] =>
  targetsWithWhy(model, type, result, (key) => (isKept(key) ? key : undefined)).flatMap(({ field, why }) =>
    why === null ? [field] : [],
  );

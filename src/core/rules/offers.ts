import type { Field, Link, Model } from '../model';
import { conversion, type ValueType } from '../values';
import { type Aggregate, aggregateEntry } from './roll-up';

/** Links whose children a roll-up on the type may bring together. */
export const routesOffered = (model: Model, type: string): readonly Link[] => model.linksTo(type);

/** Fields of the children that the aggregate takes. */
export function valuesOffered(model: Model, childType: string, aggregate: Aggregate): Field[] {
  const kinds = aggregateEntry(aggregate)?.kinds ?? [];
  return model.type(childType)?.fields.filter((field) => kinds.includes(field.type.kind)) ?? [];
}

/** What an aggregate over a value yields, or `null` while the value isn't chosen or isn't taken. */
export function resultOffered(aggregate: Aggregate, value: ValueType | null): ValueType | null {
  const entry = aggregateEntry(aggregate);
  if (!entry) return null;
  if (entry.kinds.length === 0) return entry.resultType(null);
  return value && entry.kinds.includes(value.kind) ? entry.resultType(value) : null;
}

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
    result
      ? conversion(result, field.type) !== null
      : ['number', 'money', 'rating', 'date', 'dateTime', 'yesNo', 'choice'].includes(field.type.kind);
  return (
    model
      .type(type)
      ?.fields.filter((field) => !field.required && !field.unique && fits(field) && !isKept(field.key)) ?? []
  );
}

import { KIND_NAMES, lastIn, type Kind, type ValueType } from '@/core/values';
import { type Field, fieldIn, follow, type Model, typeIn, typeUp } from '@/core/model';
import type { FieldRead, OfferedField } from '@/core/rules';
import type { Choice } from './choices';

/** Where fields are read: on records of a type, and up their links. */
export interface FieldScope {
  readonly model: Model;
  readonly type: string;
}

/** The choice that leaves a part out again; no key of a field or route has a blank alone. */
export const LEAVE_OUT = ' ';

export const keyOf = (route: readonly string[], field: string) => [...route, field].join('.');

/**
 * The record's own fields, then those up its links, link by link; where kinds have names, these stand beside them. Of what doesn't fit `fits` says
 * why: it stands there grey, after the others; `false` leaves it out.
 */
export function fieldChoices(
  { model, type }: FieldScope,
  fits: (field: Field, owner: string) => boolean | string = () => true,
  kinds?: Readonly<Record<Kind, string>>,
): Choice[] {
  const of = (owner: string, route: readonly string[]) =>
    typeIn(model, owner)
      .fields.flatMap((field): Choice[] => {
        const found = fits(field, owner);
        if (found === false) return [];
        const note = typeof found === 'string' ? found : kinds?.[field.type.kind];
        return [
          {
            ...{ key: keyOf(route, field.key), name: field.name },
            ...(typeof found === 'string' ? { isDisabled: true } : {}),
            ...(note === undefined ? {} : { note }),
          },
        ];
      })
      .sort((a, b) => Number(a.isDisabled ?? false) - Number(b.isDisabled ?? false));
  const above = routesUp(model, type).flatMap(({ route, type: at, name }) => {
    const fields = of(at, route);
    return fields.length > 0
      ? [{ key: `route ${route.join('.')}`, name: `${name}’s …`, children: fields }]
      : [];
  });
  return [...of(type, []), ...above];
}

/** Fields as choices: what can't be chosen stands after the others, grey, with why. */
export const fieldsWithWhy = (fields: readonly OfferedField[]): Choice[] =>
  [...fields]
    .sort((a, b) => Number(a.why !== null) - Number(b.why !== null))
    .map(({ field, why }) => ({
      ...{ key: field.key, name: field.name, isDisabled: why !== null },
      note: why ?? KIND_NAMES[field.type.kind],
    }));

export const readFrom = (key: string): FieldRead => {
  const steps = key.split('.');
  return { kind: 'field', route: steps.slice(0, -1), field: lastIn(steps) };
};

export const typeOf = ({ model, type }: FieldScope, { route, field }: FieldRead): ValueType =>
  fieldIn(model, typeUp(model, type, route), field).type;

export function nameOfField({ model, type }: FieldScope, { route, field }: FieldRead): string {
  const name = fieldIn(model, typeUp(model, type, route), field).name;
  const up = routesUp(model, type).find((candidate) => candidate.route.join('.') === route.join('.'));
  return up ? `${up.name}’s ${name.charAt(0).toLowerCase()}${name.slice(1)}` : name;
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
      ...route.map((step, index) => fieldIn(model, typeUp(model, type, route.slice(0, index)), step).name),
      field.name,
    ].join('’s ');
    return [{ route: next, type: parent, name }, ...routesUp(model, type, next)];
  });
}

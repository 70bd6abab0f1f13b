import { type Field, type Model, type Own, ownerOf, type RoleAccess, type TypeAccess } from '@/core/model';

/** All of a type: as where nothing is said. */
export const ALL_OF: TypeAccess = {
  ...{ see: true, add: true, change: true, delete: true, export: true },
  ...{ fields: {}, selection: null, own: null, where: null },
};

const isAll = (access: TypeAccess): boolean =>
  access.see &&
  access.add &&
  access.change &&
  access.delete &&
  access.export &&
  access.selection === null &&
  access.own === null &&
  (access.where ?? null) === null &&
  Object.keys(access.fields).length === 0;

/** With another access to a type; what comes to all of it isn't said. */
export function withAccess(role: RoleAccess, type: string, access: TypeAccess): RoleAccess {
  const { [type]: _before, ...others } = role;
  return isAll(access) ? others : { ...others, [type]: access };
}

/** With another access to a field; what may be changed isn't said. */
export function withField(access: TypeAccess, field: string, to: 'hidden' | 'seen' | 'changed'): TypeAccess {
  const { [field]: _before, ...others } = access.fields;
  return { ...access, fields: to === 'changed' ? others : { ...others, [field]: to } };
}

export interface OwnChoice {
  readonly own: Own;
  /** `Coordinator`, `Exhibition · Curator`. */
  readonly words: string;
}

/** Fields of people by which records of a type may be somebody's own: on the record, and up a link or two. */
export function ownChoices(model: Model, type: string): readonly OwnChoice[] {
  const found: OwnChoice[] = [];
  const look = (at: string, route: readonly string[], names: readonly string[]) => {
    for (const field of model.type(at)?.fields ?? []) {
      const own = { route, field: field.key };
      if (ownerOf(model, type, own)) found.push({ own, words: [...names, field.name].join(' · ') });
    }
    if (route.length < 2)
      for (const { link, parent, field } of model.linksFrom(at))
        if (parent !== at) look(parent, [...route, link], [...names, field.name]);
  };
  look(type, [], []);
  return found;
}

/** Whether a field can be hidden at all: what names a record can't. */
export const canHide = (model: Model, type: string, { key }: Field): boolean =>
  model.type(type)?.title !== key;

import type { Expression } from '@/core/syntax/expression';
import type { Problem } from '@/core/values';
import type { Field, Model, ModelDefinition, OpenLink, RecordType, Section } from './model';

/** How much of a field a role has; whatever isn't said may be changed. */
export type FieldAccess = 'hidden' | 'seen';

/** A person's field by which records are somebody's own: on the record, or up a route of links. */
export interface Own {
  readonly route: readonly string[];
  readonly field: string;
}

/** What a role may with records of a type. */
export interface TypeAccess {
  readonly see: boolean;
  readonly add: boolean;
  readonly change: boolean;
  readonly delete: boolean;
  readonly export: boolean;
  readonly fields: Readonly<Record<string, FieldAccess>>;
  /** Only records of this selection; `null`: all. */
  readonly selection: string | null;
  /** Only records whose person this is; `null`: all. */
  readonly own: Own | null;
  /** Only records for which this holds, which may read who looks (`me()`); left out or `null`: all. All hold that are said. */
  readonly where?: Expression | null;
}

/** What a role sees and may less than all; types that aren't named here it sees and may all of. */
export type RoleAccess = Readonly<Record<string, TypeAccess>>;

/** What somebody sees of a type, and may with its records. */
export interface SeenType extends Pick<TypeAccess, 'add' | 'change' | 'delete' | 'export' | 'fields'> {
  /** Records for which one of these holds; `null`: all. */
  readonly where: readonly Expression[] | null;
  /** Who looks, where one of these may read that. */
  readonly me?: string;
}

/** What somebody sees of a workspace who sees only a part of it: types that aren't named here all of, `null` nothing of. */
export type Sight = ReadonlyMap<string, SeenType | null>;

/**
 * What roles come to together, each by what it sees less (`null`: all), for a person. Where several say something of a type, they see the records of each;
 * a field that one of them hides is hidden, since what they see by the other might be just that.
 */
export function sightOf(roles: readonly (RoleAccess | null)[], person: string): Sight | null {
  if (roles.length === 0 || roles.some((role) => role === null || Object.keys(role).length === 0))
    return null;
  const accesses = roles as readonly RoleAccess[];
  const [first, ...others] = accesses;
  const narrowed = Object.keys(first ?? {}).filter((type) => others.every((role) => role[type]));
  const sight = new Map<string, SeenType | null>();
  for (const type of narrowed) {
    const seeing = accesses.flatMap((role) => {
      const access = role[type];
      return access?.see ? [access] : [];
    });
    sight.set(type, seeing.length === 0 ? null : together(seeing, person));
  }
  return sight.size === 0 ? null : sight;
}

function together(of: readonly TypeAccess[], person: string): SeenType {
  const may = (what: 'add' | 'change' | 'delete' | 'export') => of.some((one) => one[what]);
  const fields: Record<string, FieldAccess> = {};
  for (const [field, access] of of.flatMap((one) => Object.entries(one.fields)))
    if (fields[field] !== 'hidden') fields[field] = access;
  const wheres = of.map(whereOf);
  const isAll = wheres.some((where) => where === null);
  const readsMe = !isAll && of.some(({ own, where = null }) => own !== null || where !== null);
  return {
    ...{ add: may('add'), change: may('change'), delete: may('delete'), export: may('export') },
    fields,
    where: isAll ? null : wheres.filter((where) => where !== null),
    ...(readsMe ? { me: person } : {}),
  };
}

function whereOf({ selection, own, where = null }: TypeAccess): Expression | null {
  const parts: Expression[] = [
    ...(selection === null
      ? []
      : [{ kind: 'selection', operator: 'isIn', route: [], selection } as const satisfies Expression]),
    ...(own === null
      ? []
      : [
          {
            ...{ kind: 'compare', operator: '=' },
            left: { kind: 'field', ...own },
            right: { kind: 'ofRun', what: 'me' },
          } as const satisfies Expression,
        ]),
    ...(where === null ? [] : [where]),
  ];
  const [only] = parts;
  return parts.length > 1 ? { kind: 'group', operator: 'all', of: parts } : (only ?? null);
}

/** Whether somebody sees a field, and may change it. */
export const fieldSeen = (sight: Sight, type: string, field: string): FieldAccess | 'changed' => {
  const seen = sight.get(type);
  return seen === null ? 'hidden' : (seen?.fields[field] ?? 'changed');
};

/**
 * The model as somebody knows it who sees only a part: without types and fields that are hidden, and without whatever would name them. `fits` says of a selection
 * whether its condition can still be read.
 */
export function seenDefinition(
  { types, lists, selections = [], ruleDefaults }: ModelDefinition,
  sight: Sight,
  fits: (
    selection: { readonly type: string; readonly condition: Expression },
    seen: ModelDefinition,
  ) => boolean,
): ModelDefinition {
  const isThere = (type: string) => sight.get(type) !== null;
  const isSeen = (type: string, { key, type: kind }: Field) =>
    fieldSeen(sight, type, key) !== 'hidden' && (kind.kind !== 'link' || isThere(kind.target));
  const seen = types.filter(({ key }) => isThere(key)).map((type) => seenType(type, isSeen));
  const bare: ModelDefinition = {
    types: seen,
    ...(lists ? { lists } : {}),
    ...(ruleDefaults ? { ruleDefaults } : {}),
  };
  const kept = selections.filter((one) => isThere(one.type) && fits(one, bare));
  // A condition may lean on selections that are gone with what they read: once more, until all that stand can be read.
  let standing = kept;
  for (let before = -1; before !== standing.length;) {
    before = standing.length;
    const known = { ...bare, selections: standing };
    standing = standing.filter((one) => fits(one, known));
  }
  return { ...bare, selections: standing };
}

function seenType(type: RecordType, isSeen: (type: string, field: Field) => boolean): RecordType {
  const { rates, openLinks = [], sections, ...rest } = type;
  const fields = type.fields.filter((field) => isSeen(type.key, field));
  const keys = new Set(fields.map(({ key }) => key));
  const areRates = rates && [rates.pair, rates.day, rates.rate].every((key) => keys.has(key));
  const open = openLinks.flatMap((one): OpenLink[] => {
    const links = one.links.filter((link) => keys.has(link));
    return links.length > 0 ? [{ ...one, links }] : [];
  });
  return {
    ...rest,
    fields,
    ...(areRates ? { rates } : {}),
    ...(open.length > 0 ? { openLinks: open } : {}),
    ...(sections ? { sections: sections.map((section) => seenSection(section, keys)) } : {}),
  };
}

/** A section whose condition might read what is hidden is always shown: whether it is would say something of that. */
function seenSection(
  { condition: _condition, lists: _lists, ...rest }: Section,
  keys: ReadonlySet<string>,
): Section {
  return { ...rest, fields: rest.fields.filter((key) => keys.has(key)) };
}

/** What is wrong with what a role is to see less: each with its place, `loan.fields.fee`. */
export function checkAccess(model: Model, access: RoleAccess): readonly Problem[] {
  const problem = (place: string, message: string): Problem => ({ code: 'role.access', place, message });
  return Object.entries(access).flatMap(([key, { see, add, fields, selection, own }]): Problem[] => {
    const type = model.type(key);
    if (!type) return [problem(key, `There is no type “${key}”. Leave it out.`)];
    const found: Problem[] = [];
    for (const [name, to] of Object.entries(fields)) {
      const field = model.field(key, name);
      const place = `${key}.fields.${name}`;
      if (!field) found.push(problem(place, `${type.name} has no field “${name}”. Leave it out.`));
      else if (to === 'hidden' && name === type.title)
        found.push(
          problem(
            place,
            `${field.name} names each ${type.name}, so it can’t be hidden. Hide the type instead.`,
          ),
        );
      else if (see && add && field.required && field.default === undefined && field.type.kind !== 'serial')
        found.push(
          problem(
            place,
            `${field.name} is required: who adds a ${type.name} has to fill it. Let them, or let them add none.`,
          ),
        );
    }
    if (selection !== null && model.selection(selection)?.type !== key)
      found.push(problem(`${key}.selection`, `${type.plural} have no such selection. Choose another.`));
    if (own !== null && ownerOf(model, key, own) === null)
      found.push(
        problem(`${key}.own`, `That leads to no person from a ${type.name}. Choose a person’s field.`),
      );
    return found;
  });
}

/** The field of a person that a route leads to from records of a type; `null` where it leads nowhere. */
export function ownerOf(model: Model, type: string, { route, field }: Own): Field | null {
  let at = type;
  for (const link of route) {
    const up = model.linksFrom(at).find((one) => one.link === link);
    if (!up) return null;
    at = up.parent;
  }
  const found = model.field(at, field);
  return found?.type.kind === 'person' ? found : null;
}

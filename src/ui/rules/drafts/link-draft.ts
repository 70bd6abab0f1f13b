import type { Expression } from '@/core/expression';
import { type Field, follow, type Model, openLinkOf, type Pace, selfLinksOf, typeIn } from '@/core/model';
import { type Finding, type LinkRule, namesAbove, type OfferedField } from '@/core/rules';
import { routesUp } from '@/ui/expression/field-choices';

/** A link rule while its sentence is being written. */
export interface LinkDraft {
  readonly type: string | null;
  readonly target: string | null;
  readonly appliesWhen: Expression | null;
  readonly find: Finding | null;
  readonly holds: LinkRule['holds'];
  readonly none: LinkRule['none'];
  readonly pace: Pace;
  readonly tells: string | null;
}

export const NEW_LINK: LinkDraft = {
  ...{ type: null, target: null, appliesWhen: null, find: null, holds: 'always', none: 'clear' },
  pace: 'withTheSave',
  tells: null,
};

export const linkDraft = ({ kind: _, tells = null, ...rule }: LinkRule): LinkDraft => ({ ...rule, tells });

/** The definition that a draft stands for, or `null` while a part is missing. */
export function linkOf({ type, target, find, tells, ...rest }: LinkDraft): LinkRule | null {
  if (!type || !target || !find) return null;
  if (find.kind === 'match' && (find.keys.length === 0 || find.keys.some(({ value }) => value === null)))
    return null;
  return { kind: 'link', type, target, find, ...rest, ...(tells ? { tells } : {}) };
}

/** The links of a type, with why a rule can't fill one, in a few words; `null` where it can. */
export const linksToFill = (
  model: Model,
  type: string,
  keptBy: (field: string) => string | undefined,
): OfferedField[] =>
  model.linksFrom(type).map(({ link, parent, field }) => ({
    field,
    why: whyNotLinked(model, { type, link, parent, isHeld: isHeld(model, type, field) }, keptBy(link)),
  }));

/** Whether a link must name something, by itself or as one of an open link. */
const isHeld = (model: Model, type: string, { key, required }: Field): boolean =>
  required === true || openLinkOf(typeIn(model, type), key)?.required === true;

interface LinkLooked {
  readonly type: string;
  readonly link: string;
  readonly parent: string;
  readonly isHeld: boolean;
}

function whyNotLinked(
  model: Model,
  { type, link, parent, isHeld: isRequired }: LinkLooked,
  keeper: string | undefined,
): string | null {
  if (keeper !== undefined) return `kept by “${keeper}”`;
  if (parent !== type) return null;
  if (isRequired || openLinkOf(typeIn(model, type), link))
    return 'to its own type, and given way or required';
  return hasOtherHierarchy(model, type, link)
    ? null
    : 'to its own type, without another such link to go up by';
}

/** The draft with another link that is filled: what is required is filled with the save, and what stands there is never emptied. */
export function withTarget(model: Model, draft: LinkDraft, target: string): LinkDraft {
  const field = draft.type ? model.field(draft.type, target) : undefined;
  const held: Partial<LinkDraft> =
    draft.type && field && isHeld(model, draft.type, field) ? { none: 'leave', pace: 'withTheSave' } : {};
  return { ...draft, ...held, target, find: null };
}

/** Whether records of a type lie above each other over a link other than this one: by that a rule may find what this one names. */
const hasOtherHierarchy = (model: Model, type: string, link: string): boolean =>
  selfLinksOf(model, type).some((one) => one.link !== link);

/** The type that a link names. */
export const namedBy = (model: Model, { type, target }: LinkDraft): string | null =>
  (type && target && follow(model, type, [target])) ?? null;

export interface WayOffer {
  readonly key: string;
  readonly name: string;
  readonly find: Finding;
}

/** How a link to the own type is filled. */
const ALWAYS_SO: Omit<LinkRule, 'type' | 'target' | 'find'> = {
  ...{ kind: 'link', appliesWhen: null, holds: 'always', none: 'clear', pace: 'withTheSave' },
};

/** Ways to a record that the link may name: over links up, and from there to the top of a hierarchy; or by what is the same. */
export function waysOffered(model: Model, draft: LinkDraft): WayOffer[] {
  const to = namedBy(model, draft);
  const { type, target } = draft;
  if (!type || !target || !to) return [];
  const found = typeIn(model, to);
  const selfs = selfLinksOf(model, to);
  const ways = routesUp(model, type).filter(
    ({ route, type: reached }) => reached === to && route[0] !== target,
  );
  const plain = ways.map(({ route, name }): WayOffer => ({
    ...{ key: route.join('.'), name: `its ${name}` },
    find: { kind: 'route', route, topmost: null, whenNoneAbove: 'empty' },
  }));
  const tops = ways.flatMap(({ route, name }) =>
    selfs.map(({ link, field }): WayOffer => ({
      ...{ key: `${route.join('.')} ${link}`, name: `the topmost over ${field.name} from its ${name}` },
      find: { kind: 'route', route, topmost: link, whenNoneAbove: 'itself' },
    })),
  );
  const match: WayOffer = {
    ...{ key: 'match', name: `the ${found.name} with the same …` },
    find: {
      ...{ kind: 'match', keys: [{ field: found.title, value: null }], ignoresCase: true },
      ...{ condition: null, several: 'first', order: null },
    },
  };
  if (to !== type) return [...tops, ...plain, match];
  return [...tops, ...plain].filter(({ find }) => namesAbove(model, { ...ALWAYS_SO, type, target, find }));
}

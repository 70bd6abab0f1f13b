import type { Expression } from '@/core/expression';
import type { Field, Model, Pace } from '@/core/model';
import { type Afterwards, type AssignedValue, type Create, isWritable, type WayBy } from '@/core/rules';
import { type AssignmentDraft, fieldValue } from './cascade-draft';

/** A create rule while its sentence is being written. */
export interface CreateDraft {
  readonly type: string | null;
  readonly condition: Expression | null;
  readonly pace: Pace;
  readonly mayAsk: boolean;
  readonly each: Create['each'];
  readonly makes: string | null;
  readonly back: string | null;
  readonly forward: string | null;
  readonly assignments: readonly AssignmentDraft[];
  readonly making: WayBy;
  readonly following: WayBy;
  readonly returning: WayBy;
  readonly afterwards: Afterwards;
}

export const NEW_CREATE: CreateDraft = {
  ...{ type: null, condition: null, pace: 'withTheSave', mayAsk: false, each: 'once', makes: null },
  ...{ back: null, forward: null, assignments: [] },
  ...{ making: 'directly', following: 'not', returning: 'not', afterwards: 'left' },
};

export const createDraft = ({ kind: _kind, mayAsk = false, assignments, ...rule }: Create): CreateDraft => ({
  ...rule,
  mayAsk,
  assignments: assignments.map(({ target, value, isOff = false }) => ({ target, value, isOff })),
});

/** The definition that a draft stands for, or `null` while a part is missing. */
export function createOf(draft: CreateDraft): Create | null {
  const { type, makes, mayAsk, assignments, following, returning, ...rest } = draft;
  if (!type || !makes || assignments.some(({ value }) => value === null)) return null;
  return {
    ...{ kind: 'create', type, makes, ...rest, following },
    returning: following === 'not' ? 'not' : returning,
    ...(mayAsk ? { mayAsk } : {}),
    assignments: assignments.map(({ target, value, isOff }) => ({
      ...{ target, value: value! },
      ...(isOff ? { isOff } : {}),
    })),
  };
}

/** What is made: with the link between the two where there is one, and what both have assigned at once. */
export function withMade(model: Model, draft: CreateDraft, makes: string): CreateDraft {
  const { type } = draft;
  if (!type) return draft;
  const back = model.linksFrom(makes).find(({ parent }) => parent === type)?.link ?? null;
  const forward =
    model.linksFrom(type).find(({ parent, field }) => parent === makes && !field.required)?.link ?? null;
  const next: CreateDraft = { ...draft, makes, back, forward, assignments: [], afterwards: 'left' };
  const wanted = model
    .type(makes)!
    .fields.filter((field) => field.key !== back && field.type.kind !== 'serial')
    .filter((field) => field.required || sharedWith(model, next, field) !== null);
  return { ...next, assignments: wanted.map((field) => assignmentOf(model, next, field)) };
}

export const assignmentOf = (model: Model, draft: CreateDraft, field: Field): AssignmentDraft => {
  const like = sharedWith(model, draft, field);
  const value: AssignedValue | null = like && fieldValue(like.key);
  return { target: field.key, value, isOff: false };
};

/** Fields of what is made that may be assigned and aren't yet; those that the record has too, and those that must be entered, come first. */
export function fieldsToFill(
  model: Model,
  draft: CreateDraft,
  isKept: (type: string, field: string) => boolean,
): { readonly field: Field; readonly isShared: boolean }[] {
  const made = draft.makes ? model.type(draft.makes) : undefined;
  if (!made || !draft.type) return [];
  const assigned = new Set([draft.back, ...draft.assignments.map(({ target }) => target)]);
  return made.fields
    .filter(({ key, type }) => !assigned.has(key) && type.kind !== 'serial' && !isKept(made.key, key))
    .map((field) => ({ field, isShared: sharedWith(model, draft, field) !== null }))
    .sort(
      (a, b) =>
        Number(b.field.required === true) - Number(a.field.required === true) ||
        Number(b.isShared) - Number(a.isShared),
    );
}

/** The field of the record that is of the same name and kind. */
function sharedWith(model: Model, { type }: CreateDraft, field: Field): Field | null {
  const like = type ? model.type(type)?.fields.find(({ name }) => name === field.name) : undefined;
  return like && like.type.kind === field.type.kind && isWritable(like.type, field.type) ? like : null;
}

import { certain } from '@/core/values';
import type { Expression } from '@/core/expression';
import { type Field, type Model, type Pace, typeIn } from '@/core/model';
import {
  type Afterwards,
  type AssignedValue,
  type Create,
  isWritable,
  whyClosed,
  type ExecutionModeBy,
} from '@/core/rules';
import { type AssignmentDraft, fieldValue, type AssignableField, type KeptOf } from './cascade-draft';

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
  /** Fields of the record itself, from what was made. */
  readonly gives: readonly AssignmentDraft[];
  readonly making: ExecutionModeBy;
  readonly following: ExecutionModeBy;
  readonly returning: ExecutionModeBy;
  readonly afterwards: Afterwards;
  readonly tells: string | null;
}

export const NEW_CREATE: CreateDraft = {
  ...{ type: null, condition: null, pace: 'withTheSave', mayAsk: false, each: 'once', makes: null },
  ...{ back: null, forward: null, assignments: [], gives: [] },
  ...{ making: 'directly', following: 'not', returning: 'not', afterwards: 'left', tells: null },
};

const draftsOf = (assignments: Create['assignments']): AssignmentDraft[] =>
  assignments.map(({ target, value, isOff = false }) => ({ target, value, isOff }));
const writtenOf = (drafts: readonly AssignmentDraft[]): Create['assignments'] =>
  drafts.map(({ target, value, isOff }) => ({ target, value: certain(value), ...(isOff ? { isOff } : {}) }));

export const createDraft = ({
  kind: _,
  mayAsk = false,
  tells = null,
  assignments,
  gives = [],
  ...rule
}: Create): CreateDraft => ({
  ...rule,
  mayAsk,
  tells,
  assignments: draftsOf(assignments),
  gives: draftsOf(gives),
});

/** The definition that a draft stands for, or `null` while a part is missing. */
export function createOf(draft: CreateDraft): Create | null {
  const { type, makes, mayAsk, tells, assignments, gives, following, returning, ...rest } = draft;
  if (!type || !makes || [...assignments, ...gives].some(({ value }) => value === null)) return null;
  return {
    ...{ kind: 'create', type, makes, ...rest, following },
    returning: following === 'not' ? 'not' : returning,
    ...(mayAsk ? { mayAsk } : {}),
    ...(tells ? { tells } : {}),
    assignments: writtenOf(assignments),
    ...(gives.length > 0 ? { gives: writtenOf(gives) } : {}),
  };
}

/** What is made: with the link between the two where there is one, and what both have assigned at once. */
export function withMade(model: Model, draft: CreateDraft, makes: string): CreateDraft {
  const { type } = draft;
  if (!type) return draft;
  const back = model.linksFrom(makes).find(({ parent }) => parent === type)?.link ?? null;
  const forward =
    model.linksFrom(type).find(({ parent, field }) => parent === makes && !field.required)?.link ?? null;
  const next: CreateDraft = {
    ...draft,
    makes,
    back,
    forward,
    assignments: [],
    gives: [],
    afterwards: 'left',
  };
  const wanted = typeIn(model, makes)
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
export function fieldsToFill(model: Model, draft: CreateDraft, keptBy: KeptOf): AssignableField[] {
  const made = draft.makes ? model.type(draft.makes) : undefined;
  if (!made || !draft.type) return [];
  const assigned = new Set([draft.back, ...draft.assignments.map(({ target }) => target)]);
  return made.fields
    .filter(({ key }) => !assigned.has(key))
    .map((field) => ({
      field,
      isShared: sharedWith(model, draft, field) !== null,
      why: whyNotFilled(field, keptBy(made.key, field.key)),
    }))
    .sort(
      (a, b) =>
        Number(a.why !== null) - Number(b.why !== null) ||
        Number(b.field.required === true) - Number(a.field.required === true) ||
        Number(b.isShared) - Number(a.isShared),
    );
}

/** Of a record that is made all fields are filled but those that fill themselves. */
function whyNotFilled({ type: { kind } }: Field, keeper: string | undefined): string | null {
  if (keeper !== undefined) return `kept by “${keeper}”`;
  return kind === 'serial' ? 'given by Oikon' : null;
}

/** The field of the record that is of the same name and kind. */
function sharedWith(model: Model, { type }: CreateDraft, field: Field): Field | null {
  const like = type ? model.type(type)?.fields.find(({ name }) => name === field.name) : undefined;
  return like && like.type.kind === field.type.kind && isWritable(like.type, field.type) ? like : null;
}

/** Fields of the record itself that may be given something from what was made. */
export function fieldsToGive(
  model: Model,
  { type, forward, gives }: CreateDraft,
  keptBy: KeptOf,
): AssignableField[] {
  if (!type) return [];
  const taken = new Set([forward, ...gives.map(({ target }) => target)]);
  return typeIn(model, type)
    .fields.filter(({ key }) => !taken.has(key))
    .map((field) => ({ field, isShared: false, why: whyClosed(field, (key) => keptBy(type, key)) }))
    .sort((a, b) => Number(a.why !== null) - Number(b.why !== null));
}

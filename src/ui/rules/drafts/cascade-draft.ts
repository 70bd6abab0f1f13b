import { certain, foundIn, KIND_NAMES } from '@/core/values';
import type { Choice } from '@/ui/expression/choices';
import type { Expression } from '@/core/expression';
import { arrive, type Field, type Model, type Pace, type Step, typeIn } from '@/core/model';
import {
  type AssignedValue,
  type Cascade,
  isWritable,
  type Moment,
  reachOf,
  type Reach,
  whyClosed,
} from '@/core/rules';

/** A field that takes a value, while it is chosen. */
export interface AssignmentDraft {
  readonly target: string;
  readonly value: AssignedValue | null;
  readonly isOff: boolean;
}

/** A cascade while its sentence is being written. */
export interface CascadeDraft {
  readonly type: string | null;
  readonly route: readonly Step[] | null;
  readonly isAllTheWay: boolean;
  readonly same: readonly string[];
  readonly condition: Expression | null;
  readonly moment: Moment | null;
  readonly only: NonNullable<Cascade['only']>;
  readonly order: Cascade['order'] | null;
  readonly assignments: readonly AssignmentDraft[];
  /** Among rules that react into the same fields; `null` comes last. */
  readonly precedence: number | null;
  /** Of account for what is kept in step. */
  readonly pace: Pace;
}

export const NEW_CASCADE: CascadeDraft = {
  ...{
    type: null,
    route: null,
    isAllTheWay: false,
    same: [],
    condition: null,
    moment: null,
    only: 'all',
    order: null,
  },
  ...{ assignments: [], precedence: null, pace: 'withTheSave' },
};

export const cascadeDraft = (rule: Cascade): CascadeDraft => ({
  ...{
    type: rule.type,
    route: rule.route,
    isAllTheWay: rule.isAllTheWay === true,
    same: rule.same ?? [],
    condition: rule.condition,
    moment: rule.moment,
  },
  ...{ only: rule.only ?? 'all', order: rule.order ?? null, pace: rule.pace },
  precedence: rule.precedence ?? null,
  assignments: rule.assignments.map(({ target, value, isOff = false }) => ({ target, value, isOff })),
});

/** The definition that a draft stands for, or `null` while a part is missing. */
export function cascadeOf(draft: CascadeDraft): Cascade | null {
  const { type, route, isAllTheWay, same, condition, moment, only, order, assignments, precedence, pace } =
    draft;
  if (!type || !route || !moment || assignments.length === 0) return null;
  if (assignments.some(({ value }) => value === null)) return null;
  const isChange = typeof moment !== 'string';
  return {
    ...{ kind: 'cascade', type, route, condition, moment },
    ...(isAllTheWay ? { isAllTheWay } : {}),
    ...(same.length > 0 ? { same } : {}),
    ...(isChange && only !== 'all' ? { only } : {}),
    ...(order ? { order } : {}),
    assignments: assignments.map(({ target, value, isOff }) => ({
      ...{ target, value: certain(value) },
      ...(isOff ? { isOff } : {}),
    })),
    ...(moment !== 'inStep' && precedence !== null ? { precedence } : {}),
    pace: moment === 'inStep' ? pace : 'withTheSave',
  };
}

/** The type of the records that take the values; `null` while the way to them isn't chosen. */
export const recipientOf = (model: Model, { type, route }: CascadeDraft): string | null =>
  type && route ? (arrive(model, type, route) ?? null) : null;

export const reachIn = (model: Model, { type, route }: CascadeDraft): Reach | null =>
  type && route ? reachOf(model, type, route) : null;

/** Fields that may take a value and aren't assigned yet; those that the other type has too come first. */
export function fieldsToAssign(model: Model, draft: CascadeDraft, keptBy: KeptOf): AssignableField[] {
  const recipient = recipientOf(model, draft);
  if (!recipient || !draft.type) return [];
  const assigned = new Set(draft.assignments.map(({ target }) => target));
  return typeIn(model, recipient)
    .fields.filter(({ key }) => !assigned.has(key))
    .map((field) => ({
      field,
      isShared: sharedWith(model, draft, field) !== null,
      why: whyClosed(field, (key) => keptBy(recipient, key)),
    }))
    .sort(
      (a, b) => Number(a.why !== null) - Number(b.why !== null) || Number(b.isShared) - Number(a.isShared),
    );
}

/** The name of the rule that keeps a field of a type; nothing where none does. */
export type KeptOf = (type: string, field: string) => string | undefined;

/** A field that may take a value, or why it can't. */
export interface AssignableField {
  readonly field: Field;
  /** Whether both types have it. */
  readonly isShared: boolean;
  /** In a few words; `null` where it can. */
  readonly why: string | null;
}

/** Fields as choices: what can't be chosen stands after the others, grey, with why. */
export const assignableChoices = (fields: readonly AssignableField[]): Choice[] =>
  fields.map(({ field, isShared, why }) => ({
    ...{ key: field.key, name: field.name },
    ...(why === null
      ? {
          note: [
            KIND_NAMES[field.type.kind],
            ...(field.required ? ['required'] : []),
            ...(isShared ? ['on both'] : []),
          ].join(', '),
        }
      : { note: why, isDisabled: true }),
  }));

/** The field of the record that cascades, of the same name and kind; never itself. */
function sharedWith(model: Model, { type, route }: CascadeDraft, field: Field): Field | null {
  if (!type || route?.length === 0) return null;
  const like = model.type(type)?.fields.find(({ name }) => name === field.name);
  return like && like.type.kind === field.type.kind && isWritable(like.type, field.type) ? like : null;
}

/** Assigns a field; from the one of the same name and kind at once, where there is one. */
export function withField(model: Model, draft: CascadeDraft, field: Field): CascadeDraft {
  const like = sharedWith(model, draft, field);
  const value: AssignedValue | null = like && fieldValue(like.key);
  return { ...draft, assignments: [...draft.assignments, { target: field.key, value, isOff: false }] };
}

export const fieldValue = (field: string, route: readonly string[] = []): AssignedValue => ({
  kind: 'expression',
  expression: { kind: 'field', route, field },
});

/** Another way: what takes values is of another type, so nothing of it stays but the moment, as far as it can go that way. */
export function withWay(
  model: Model,
  draft: CascadeDraft,
  { route, isAllTheWay }: Pick<CascadeDraft, 'isAllTheWay'> & { readonly route: readonly Step[] },
): CascadeDraft {
  const next = { ...draft, route, isAllTheWay };
  const isSame = recipientOf(model, next) === recipientOf(model, draft);
  const reach = reachIn(model, next);
  const fits =
    draft.moment === 'inStep'
      ? reach !== 'itself' && !isAllTheWay
      : (reach === 'beneath' && !isAllTheWay) || reach === 'siblings';
  return {
    ...next,
    ...(isSame ? {} : { condition: null, assignments: [] }),
    same: [],
    moment: fits || typeof draft.moment !== 'string' ? draft.moment : null,
  };
}

/** What the moment's form begins with. */
export const NEW_CHANGE = (model: Model, type: string): Moment => ({
  ...{ kind: 'onChange', where: null },
  tests: [
    {
      kind: 'changed',
      field: foundIn(typeIn(model, type).fields, ({ type: { kind } }) => kind !== 'link').key,
    },
  ],
});

import { type Expression, typeValue } from '@/core/expression';
import { follow, type Model, type Pace, type Step } from '@/core/model';
import {
  type Aggregate,
  aggregateEntry,
  alike,
  comparisonsFor,
  compileMap,
  defaultsFor,
  type FieldRead,
  type Joining,
  isValueOffered,
  type Limits,
  type MapRow,
  membersOffered,
  resultOffered,
  type ResultMap,
  type RollUp,
  type RollUpSource,
  type Together,
} from '@/core/rules';
import { optionsChosen, type PerOptionDraft, settledOptions } from './per-option-draft';
import { placesOf, type Rounding, type ValueType, type WireValue } from '@/core/values';

/** Records that are brought together, while they are chosen. */
export interface SourceDraft {
  readonly route: readonly Step[] | null;
  /** A field, or FEEL text. */
  readonly value: Expression | null;
  readonly condition: Expression | null;
  readonly isEveryWay: boolean;
  /** For the first and last: by what they are put in order. */
  readonly order: readonly FieldRead[];
}

/** Values of the record itself that take part: `null` while the field isn't chosen yet, left out where none is wanted. */
export interface OwnDraft {
  readonly adds?: FieldRead | null;
  readonly standsIn?: FieldRead | null;
  readonly whenNone?: FieldRead | null;
}

/** A further field that is taken from the same record, while it is chosen. */
export interface TogetherDraft {
  readonly target: string | null;
  /** Of the first records, then of each further ones. */
  readonly values: readonly (Expression | null)[];
}

/** A roll-up while its sentence is being written: parts that aren't chosen yet are `null`. */
export interface RuleDraft extends SourceDraft {
  readonly type: string | null;
  readonly target: string | null;
  readonly aggregate: Aggregate | null;
  /** Further records that are brought together with the first. */
  readonly also: readonly SourceDraft[];
  readonly own: OwnDraft;
  /** For the first and last; of no account for others. */
  readonly together: readonly TogetherDraft[];
  readonly perOption: PerOptionDraft | null;
  readonly whenNone: WireValue;
  readonly rounding: Rounding | null;
  readonly limits: Limits | null;
  readonly map: ResultMap | null;
  /** On which records a rule that reacts does; of no account for others. */
  readonly appliesWhen: Expression | null;
  /** Among rules that react into the same field, where it reacts; `null` comes last. */
  readonly precedence: number | null;
  /** For joined text; of no account for others. */
  readonly joining: Joining;
  /** For a percentile; of no account for others. */
  readonly percent: number;
  /** Of no account for rules that react. */
  readonly pace: Pace;
}

export const NEW_SOURCE: SourceDraft = {
  route: null,
  value: null,
  condition: null,
  isEveryWay: false,
  order: [],
};

export const NEW_DRAFT: RuleDraft = {
  ...NEW_SOURCE,
  type: null,
  target: null,
  aggregate: null,
  also: [],
  own: {},
  together: [],
  perOption: null,
  whenNone: null,
  ...{ rounding: null, limits: null, map: null, appliesWhen: null, precedence: null },
  joining: { separator: ', ' },
  percent: 90,
  pace: 'withTheSave',
};

const sourceDraft = ({
  route,
  value,
  condition,
  isEveryWay = false,
  order = [],
}: RollUpSource): SourceDraft => ({
  route,
  value,
  condition,
  isEveryWay,
  order,
});

export function draftOf(rule: RollUp): RuleDraft {
  const { type, target, aggregate, whenNone, rounding, limits = null, map = null, appliesWhen = null } = rule;
  const own = Object.fromEntries(Object.entries(rule.own ?? {}).filter(([, field]) => field !== null));
  return {
    ...sourceDraft(rule),
    ...{ type, target, aggregate, own, whenNone, rounding, limits, map, appliesWhen },
    pace: rule.pace,
    precedence: rule.precedence ?? null,
    joining: rule.joining ?? NEW_DRAFT.joining,
    percent: rule.percent ?? NEW_DRAFT.percent,
    together: rule.together ?? [],
    perOption: rule.perOption ?? null,
    also: (rule.also ?? []).map(sourceDraft),
  };
}

/** The records of a source, or `null` while they or their value aren't chosen. */
function sourceOf(source: SourceDraft, aggregate: Aggregate): RollUpSource | null {
  const { route, value, condition, isEveryWay, order } = source;
  const isOrdered = aggregateEntry(aggregate).isOrdered === true;
  if (!route || (aggregate !== 'count' && !value) || (isOrdered && order.length === 0)) return null;
  return {
    ...{ route, value, condition },
    ...(isEveryWay ? { isEveryWay } : {}),
    ...(isOrdered || order.length > 0 ? { order } : {}),
  };
}

/** The definition that a draft stands for, or `null` while a part is missing. */
export function definitionOf(draft: RuleDraft): RollUp | null {
  const { type, target, aggregate, whenNone, rounding, limits, map, appliesWhen, precedence } = draft;
  const pace = isReactingDraft(draft) ? 'withTheSave' : draft.pace;
  if (!type || !target || !aggregate || Object.values(draft.own).includes(null)) return null;
  const source = sourceOf(draft, aggregate);
  const also = draft.also.map((one) => sourceOf(one, aggregate));
  if (!source || also.includes(null)) return null;
  const together = aggregateEntry(aggregate).isOrdered ? togetherOf(draft) : [];
  const perOption = draft.perOption && optionsChosen(draft.perOption);
  if (!together || (draft.perOption && !perOption)) return null;
  return {
    ...{ kind: 'rollUp', type, target, aggregate, whenNone, rounding, pace },
    ...source,
    ...(aggregate === 'joined' ? { joining: draft.joining } : {}),
    ...(aggregate === 'percentile' ? { percent: draft.percent } : {}),
    ...(also.length > 0 ? { also: also as RollUpSource[] } : {}),
    ...(Object.keys(draft.own).length > 0 ? { own: draft.own } : {}),
    ...(together.length > 0 ? { together } : {}),
    ...(perOption ? { perOption } : {}),
    ...(limits && (limits.least || limits.most) ? { limits } : {}),
    ...(map ? { map } : {}),
    ...(appliesWhen && isReactingDraft(draft) ? { appliesWhen } : {}),
    ...(precedence !== null && isReactingDraft(draft) ? { precedence } : {}),
  };
}

/** The further fields, or `null` while one of them isn't chosen. */
function togetherOf({ together, also }: RuleDraft): Together[] | null {
  const found: Together[] = [];
  for (const { target, values } of together) {
    const all = Array.from({ length: also.length + 1 }, (_, at) => values[at] ?? null);
    if (!target || all.includes(null)) return null;
    found.push({ target, values: all });
  }
  return found;
}

/** Whether what is written leaves the field to people, but for changes of the result. */
export const isReactingDraft = ({ map }: RuleDraft): boolean => map?.otherwise.kind === 'asItIs';

const typeOf = (model: Model, type: string | null, field: string | null): ValueType | null =>
  type && field ? (model.field(type, field)?.type ?? null) : null;

/** The records on which a source's values and conditions are read, and the links from there to the far end of a bridge. */
export const membersOf = (
  model: Model,
  type: string | null,
  route: readonly Step[] | null,
): ReturnType<typeof membersOffered> => (type && route ? membersOffered(model, type, route) : null);

/** The kind of what a source brings in; `null` while it isn't chosen. */
function valueType(model: Model, { type }: RuleDraft, source: SourceDraft): ValueType | null {
  const members = membersOf(model, type, source.route);
  if (!members || !source.value) return null;
  const typed = typeValue(model, members.type, source.value, { isAlone: true });
  return typed.ok ? typed.value.type : null;
}

/** What the aggregate yields so far. */
export function resultOf(model: Model, draft: RuleDraft): ValueType | null {
  if (!draft.aggregate) return null;
  const first = valueType(model, draft, draft);
  const together = draft.also.reduce<ValueType | null>((sum, source) => {
    const next = valueType(model, draft, source);
    return sum && next ? (alike(sum, next) ?? sum) : sum;
  }, first);
  return resultOffered(draft.aggregate, together);
}

/** A count or a sum of nothing is 0 to begin with; anything else is empty. */
function emptyCase(model: Model, draft: RuleDraft): WireValue {
  const target = typeOf(model, draft.type, draft.target);
  if (!target || !draft.aggregate || !['count', 'countDistinct', 'sum'].includes(draft.aggregate))
    return null;
  if (target.kind === 'money') return { amount: '0', currency: target.currency };
  return target.kind === 'number' ? '0' : null;
}

/** Lets go of a value that the aggregate doesn't take, or that isn't where the records are. */
function settledSource<T extends SourceDraft>(model: Model, draft: RuleDraft, source: T): T {
  const members = membersOf(model, draft.type, source.route);
  const { value } = source;
  if (!members || !value || value.kind !== 'field' || !draft.aggregate) return source;
  const owner = follow(model, members.type, value.route);
  const field = owner ? model.field(owner, value.field) : undefined;
  const isTarget = owner === draft.type && value.field === draft.target;
  return field && isValueOffered(draft.aggregate, field, isTarget) ? source : { ...source, value: null };
}

/** A map stays while what it compares and what it writes do. */
function settledMap(
  model: Model,
  { type, map, target: was }: RuleDraft,
  result: ValueType | null,
  target: string | null,
): ResultMap | null {
  const field = type && target ? model.field(type, target) : undefined;
  if (!map || !result || !field || was === null) return map;
  return compileMap(map, result, field).map ? map : newMap(result);
}

/** A map to begin with: of a question its two answers. */
export function newMap(result: ValueType | null): ResultMap {
  const row = (than: WireValue): MapRow => ({
    ...{ than, writes: null },
    operator: result && comparisonsFor(result).some(({ operator }) => operator === '<') ? '<' : '=',
  });
  const rows = result?.kind === 'yesNo' ? [row(true), row(false)] : [row(null)];
  return { rows, otherwise: { kind: 'writes', value: null } };
}

/** Lets go of values that the aggregate doesn't take. The target stays, whether it fits or not: that is found, and may be put right in several ways. */
function settle(model: Model, draft: RuleDraft): RuleDraft {
  const first = settledSource(model, draft, draft);
  const valued = { ...first, also: draft.also.map((source) => settledSource(model, draft, source)) };
  const result = resultOf(model, valued);
  const { target } = draft;
  const isNumeric = ['number', 'money'].includes(typeOf(model, draft.type, target)?.kind ?? '');
  const { rounding, limits } = draft;
  const isAmount = result !== null && placesOf(result) !== null;
  const settled = {
    ...{ ...valued, target, map: settledMap(model, draft, result, target) },
    perOption: settledOptions(
      model,
      membersOf(model, draft.type, draft.route)?.type ?? null,
      draft.perOption,
    ),
    ...{ rounding: isNumeric || draft.map ? rounding : null, limits: isAmount ? limits : null },
  };
  return draft.aggregate ? settled : { ...settled, whenNone: emptyCase(model, settled) };
}

/** What of a source stays when other records are chosen: the condition only while these are of the same type. */
export function withRoute<T extends SourceDraft>(
  model: Model,
  type: string | null,
  source: T,
  route: readonly Step[],
): T {
  const [was, is] = [membersOf(model, type, source.route), membersOf(model, type, route)];
  const isSame = was !== null && was.type === is?.type;
  const isPlain = is?.up.length === 0 && was?.up.length === 0;
  return {
    ...source,
    route,
    condition: isSame ? source.condition : null,
    value: isPlain ? source.value : null,
    isEveryWay: false,
    order: isSame ? source.order : [],
  };
}

const OF_ITSELF: readonly (keyof RuleDraft)[] = [
  'joining',
  'percent',
  'whenNone',
  'condition',
  'rounding',
  'isEveryWay',
  'own',
  'limits',
  'together',
  'perOption',
  'appliesWhen',
  'precedence',
  'pace',
];

/** Changes one part of the sentence; parts that hang on it and no longer fit are let go. */
export function changePart<K extends keyof RuleDraft>(
  model: Model,
  draft: RuleDraft,
  part: K,
  chosen: RuleDraft[K],
): RuleDraft {
  const changed = { ...draft, [part]: chosen };
  if (OF_ITSELF.includes(part)) return changed;
  if (part === 'type') return { ...NEW_DRAFT, type: changed.type, aggregate: draft.aggregate };
  const settled = settle(
    model,
    part === 'route' && changed.route ? withRoute(model, draft.type, draft, changed.route) : changed,
  );
  if (part !== 'aggregate' && part !== 'target') return settled;
  const target = draft.target === null ? typeOf(model, settled.type, settled.target) : null;
  const begun = target ? settle(model, { ...settled, ...defaultsFor(model.ruleDefaults, target) }) : settled;
  return { ...begun, whenNone: begun.map ? null : emptyCase(model, begun) };
}

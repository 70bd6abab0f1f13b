import {
  type AnyCompiled,
  competeForField,
  type CompiledCreate,
  type CompiledRule,
  executionModesOf,
  type FieldRef,
  isAskedBy,
  isClaiming,
  isCreate,
  isReacting,
  isReactingCascade,
  precedenceOf,
  type Read,
  readsField,
} from '@/core/rules';
import { itemAt, valueAt } from '@/core/values';
import { type Graph } from './graph';
import type { Plan } from './planned';
import { keyOf } from './planned';

/** What has its turn at once: a field of a rule, or all that a rule cascades at creation or on change. */
export const nodeKey = (rule: AnyCompiled): string =>
  isReactingCascade(rule) || isCreate(rule) ? rule.id : partKey(rule);

/** A rule and the field of it that is meant: ids have no blanks. */
export const partKey = ({ id, writes }: AnyCompiled): string => `${id} ${writes.field}`;

/** The same, told apart from the version of the rule that runs beside it. */
export const halfKey = (rule: CompiledRule): string =>
  `${partKey(rule)} ${rule.half ? (rule.half.isOutside ? 'outside' : 'within') : ''}`;

/** Whether two write the same field of one rule: the same one, or two versions of it that run beside each other. */
export const isSamePart = (a: CompiledRule, b: CompiledRule): boolean =>
  a === b || (a.half !== undefined && b.half !== undefined && partKey(a) === partKey(b));

/** Whether people may enter a rule's field, wherever nothing claims it at the moment. */
export const isOpen = (rule: CompiledRule): boolean =>
  isReacting(rule) || isReactingCascade(rule) || rule.kind === 'linked' || isClaiming(rule);

export const isField = (rule: AnyCompiled): rule is CompiledRule => !isCreate(rule);

/** All fields that rules read or are asked by, gathered when it is first asked. */
export function isReadIn(rules: readonly CompiledRule[]): Plan['isRead'] {
  let read: ReadonlySet<string> | null = null;
  return (ref) => (read ??= new Set(rules.flatMap(fieldsRead).map(keyOf))).has(keyOf(ref));
}

const fieldsRead = ({ reads, among, rates, pace, writes: { type } }: CompiledRule): FieldRef[] => [
  ...reads,
  ...(among?.reads ?? []),
  ...(rates?.fields.map((field) => ({ type: rates.type, field })) ?? []),
  ...(typeof pace !== 'string' && pace.kind === 'onRequest' && pace.field !== null
    ? [{ type, field: pace.field }]
    : []),
];

export function graphOf(rules: readonly AnyCompiled[]): Graph {
  const edges = new Map(rules.map((rule) => [nodeKey(rule), new Set<string>()]));
  const touching = touchingIn(rules);
  for (const rule of rules)
    for (const other of touching(rule))
      if (follows(other, rule)) valueAt(edges, nodeKey(rule)).add(nodeKey(other));
  return { nodes: [...edges.keys()], edges };
}

/**
 * The rules that may follow one, in their order: all that touch a type which that writes or makes. Only these are asked whether they do:
 * of hundreds of rules most have nothing to do with each other.
 */
export function touchingIn(rules: readonly AnyCompiled[]): (first: AnyCompiled) => readonly AnyCompiled[] {
  const byType = new Map<string, Set<number>>();
  rules.forEach((rule, at) => {
    for (const type of touchedTypes(rule)) {
      const known = byType.get(type);
      if (known) known.add(at);
      else byType.set(type, new Set([at]));
    }
  });
  return (first) => {
    const types = isCreate(first) ? [first.writes.type, first.makes] : [first.writes.type];
    const found = new Set(types.flatMap((type) => [...(byType.get(type) ?? [])]));
    return [...found].sort((a, b) => a - b).map((at) => itemAt(rules, at));
  };
}

const byIdOf = new WeakMap<Plan, ReadonlyMap<string, AnyCompiled>>();

/** Rules by their id; of one that writes several fields a part stands for all. */
export function rulesById(plan: Plan): ReadonlyMap<string, AnyCompiled> {
  let known = byIdOf.get(plan);
  if (!known) byIdOf.set(plan, (known = new Map(plan.turns.map((rule) => [rule.id, rule]))));
  return known;
}

/** Every type of which a rule reads, writes or makes records: what happens to others is of no account to it. */
export const touchedTypes = (rule: AnyCompiled): ReadonlySet<string> =>
  new Set([
    rule.writes.type,
    ...rule.reads.map(({ type }) => type),
    ...(isCreate(rule)
      ? []
      : rule.among
        ? [rule.among.type, ...rule.among.reads.map(({ type }) => type)]
        : []),
    ...(rule.rates ? [rule.rates.type] : []),
    ...(isCreate(rule) ? [rule.makes] : isReactingCascade(rule) ? [rule.source] : []),
  ]);

/** Whether a rule has its turn after another: it reads what that writes, is asked by it, or cascades what a record started with. */
export function follows(rule: AnyCompiled, first: AnyCompiled): boolean {
  if (isCreate(first)) return followsMaking(rule, first);
  if (isCreate(rule)) return readsField(rule, first.writes);
  // What a rule that cascades finds in its own fields is what it may change: it doesn't follow from it.
  if (isReactingCascade(rule) && rule.id === first.id) return false;
  // Of two that react into one field the one that comes first has its turn first, whatever either reads of it.
  if (competeForField(rule, first)) return precedenceOf(first) < precedenceOf(rule);
  // Of its own field what is kept in step, or fills a link, reads only what people entered.
  if (isField(rule) && isSamePart(rule, first) && (isClaiming(rule) || rule.kind === 'linked'))
    return rule.reads.some(
      (read) => keyOf(read) === keyOf(rule.writes) && (read.path.length > 0 || !mayReadItself(rule, read)),
    );
  // Of one field a record starts with a value before it is given another: at creation comes first, whatever either reads of it.
  if (isReactingCascade(rule) && isReactingCascade(first) && rule.moment.kind !== first.moment.kind)
    if (keyOf(rule.writes) === keyOf(first.writes)) return rule.moment.kind === 'onChange';
  return readsField(rule, first.writes) || isAskedBy(rule, first.writes);
}

/** In a pilot a formula or roll-up reads its own field only where it leaves it to people. */
const mayReadItself = ({ kind }: CompiledRule, { isEntered = false }: Read): boolean =>
  (kind !== 'formula' && kind !== 'rollUp') || isEntered;

/**
 * Whether a rule has its turn after one that makes records: it writes on those or reads them, or reads what that writes on the record for
 * which it makes them. At set times or when asked a rule makes nothing because of what another did.
 */
function followsMaking(rule: AnyCompiled, first: CompiledCreate): boolean {
  const { makes, writes, assigned, given } = first;
  if (rule === first) return writes.type === makes && rule.pace === 'withTheSave';
  if (rule.reads.some(({ type }) => type === makes)) return true;
  if (!isCreate(rule) && rule.among?.reads.some(({ type }) => type === makes)) return true;
  if (rule.writes.type === makes && (!isCreate(rule) || rule.pace === 'withTheSave')) return true;
  if (isReactingCascade(rule) && rule.source === makes) return true;
  const returned = isReturning(first) ? assigned.flatMap(({ returnsTo }) => returnsTo ?? []) : [];
  const back = [...returned, ...given.map(({ target }) => target)].map(({ key }) => key);
  return [writes.field, ...back].some((field) => readsField(rule, { type: writes.type, field }));
}

export const isReturning = ({ returning }: CompiledCreate): boolean =>
  executionModesOf(returning).some((way) => way !== 'not');
